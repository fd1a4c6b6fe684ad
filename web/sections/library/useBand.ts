import { followPointer } from '../../kit/pointer.ts';
import { onUnmounted, shallowRef, type Ref } from 'vue';

interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}
/** So far the pointer must go before a press is a frame and no click. */
const LEAST = 6;

/**
 * A frame drawn with the pointer over a scrolling area.
 * @param onDrawn gets it in pixels of the area's whole content
 */
export function useBand(area: Ref<HTMLElement | undefined>, onDrawn: (box: Box) => void) {
  const frame = shallowRef<Record<string, string>>();
  let from: { x: number; y: number } | undefined;
  let box: Box | undefined;
  let ended = 0;
  let stop = () => {};

  function place(event: PointerEvent): { x: number; y: number } {
    const edge = area.value!.getBoundingClientRect();
    return {
      x: event.clientX - edge.left + area.value!.scrollLeft,
      y: event.clientY - edge.top + area.value!.scrollTop,
    };
  }
  function start(event: PointerEvent) {
    // What is gathered can be dragged away; fields and scroll bars are left alone.
    if (event.button !== 0 || event.pointerType === 'touch') return;
    if ((event.target as HTMLElement).closest('[draggable="true"], input')) return;
    if (event.clientX > area.value!.getBoundingClientRect().left + area.value!.clientWidth) return;
    from = place(event);
    stop = followPointer(move, end);
  }
  function move(event: PointerEvent) {
    const to = place(event);
    if (!from || (!box && Math.hypot(to.x - from.x, to.y - from.y) < LEAST)) return;
    event.preventDefault();
    box = {
      left: Math.min(from.x, to.x),
      top: Math.min(from.y, to.y),
      right: Math.max(from.x, to.x),
      bottom: Math.max(from.y, to.y),
    };
    frame.value = {
      left: `${box.left}px`,
      top: `${box.top}px`,
      width: `${box.right - box.left}px`,
      height: `${box.bottom - box.top}px`,
    };
    const edge = area.value!.getBoundingClientRect();
    if (event.clientY > edge.bottom - 30) area.value!.scrollTop += 20;
    else if (event.clientY < edge.top + 30) area.value!.scrollTop -= 20;
  }
  function end() {
    if (box) {
      ended = performance.now();
      onDrawn(box);
    }
    from = box = frame.value = undefined;
  }
  onUnmounted(() => stop());
  /** The click that ends a frame is none. */
  const justDrawn = () => performance.now() - ended < 100;
  return { frame, start, justDrawn };
}
