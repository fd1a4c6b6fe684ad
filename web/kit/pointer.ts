import { useEventListener } from '@vueuse/core';

/** Follows a pressed pointer wherever it goes, until it is let go. @returns how to stop before */
export function followPointer(
  onMove: (event: PointerEvent) => void,
  onEnd: () => void = () => {},
): () => void {
  const stops = [
    useEventListener(window, 'pointermove', onMove),
    useEventListener(window, ['pointerup', 'pointercancel'], () => {
      stop();
      onEnd();
    }),
  ];
  const stop = () => stops.forEach((one) => one());
  return stop;
}
