import { onBeforeUnmount, onMounted } from 'vue';

/** Milliseconds after which a field is taken for closed, whatever is seen of it. */
const LONGEST = 1000;
/** Frames in which nothing has to happen. */
const STILL = 6;
/** Keys that are waited with, beside letters; others act at once. */
const WAITING = new Set(['Enter', 'Tab', 'Backspace', 'ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight']);

/** The field of the cell that is open, where one is. */
export const fieldIn = (place: HTMLElement | null) =>
  place?.querySelector<HTMLInputElement>('revogr-edit :is(input, textarea)') ?? null;

/**
 * Keys that are typed while the field of a cell closes, and the grid would lose: they wait, and are given to it once the next cell is chosen.
 * @param place what is around the grid
 * @param isMade whether what was changed last is shown: the cells are drawn anew then, and a field that is open by that time with them
 */
export function useTypedAhead(place: () => HTMLElement | null, isMade: () => boolean) {
  const waiting: KeyboardEvent[] = [];
  let closing = false;
  let opened = false;

  const field = () => fieldIn(place());
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  async function until(holds: () => boolean) {
    for (const end = performance.now() + LONGEST; !holds() && performance.now() < end;) await frame();
  }
  const isClosed = () => !place()?.querySelector('revogr-edit');
  /** Once it has been so for some frames: what changes around the cells may have them drawn anew, too. */
  async function settled() {
    let still = 0;
    await until(() => (still = isClosed() && isMade() ? still + 1 : 0) > STILL);
  }

  function onKey(event: KeyboardEvent) {
    if (!event.isTrusted || event.isComposing || event.ctrlKey || event.metaKey || event.altKey) return;
    if (closing) {
      // Somebody is elsewhere by now.
      const at = event.target as HTMLElement;
      if (!place()?.contains(at) && at !== document.body) return;
      if (event.key.length > 1 && !WAITING.has(event.key)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      waiting.push(event);
    } else if (event.target === field() && (event.key === 'Enter' || event.key === 'Tab')) void close();
  }
  async function close() {
    closing = true;
    opened = false;
    // The grid gets the key that closes it first.
    await frame();
    await settled();
    for (let next = waiting.shift(); next && place(); next = waiting.shift()) await give(next);
    waiting.length = 0;
    closing = false;
  }
  async function give({ key, code, shiftKey }: KeyboardEvent) {
    const typed = () =>
      new KeyboardEvent('keydown', { key, code, shiftKey, bubbles: true, cancelable: true });
    // A letter opens a field, which is there some frames later.
    if (key.length === 1) opened = true;
    if (key.length === 1 || !opened) {
      place()!.dispatchEvent(typed());
      return;
    }
    await until(() => field() !== null);
    const now = field();
    if (!now) return;
    if (key === 'Backspace') {
      now.value = now.value.slice(0, -1);
      now.dispatchEvent(new Event('input', { bubbles: true }));
      return;
    }
    now.dispatchEvent(typed());
    opened = false;
    await frame();
    await settled();
  }
  onMounted(() => document.addEventListener('keydown', onKey, { capture: true }));
  onBeforeUnmount(() => document.removeEventListener('keydown', onKey, { capture: true }));
  return {
    /** No cell is open any more, and what was changed last is shown. */
    closed: settled,
  };
}
