import { AsyncLocalStorage } from 'node:async_hooks';

const persons = new AsyncLocalStorage<number>();

/** Does something on behalf of a person: what it leaves to the workers waits in that person's line. */
export const onBehalf = <Result>(personId: number, work: () => Result): Result => persons.run(personId, work);

/** Does something that a request has set off, but that is for nobody in particular. */
export const inBackground = <Result>(work: () => Result): Result => persons.exit(work);

/** For whom this is done; undefined: for nobody in particular, as the work in the background is. */
export const onWhoseBehalf = (): number | undefined => persons.getStore();

/**
 * What waits, in a line for each person: they are served in turn, so that the thousand things of one hold nobody else up. Within a line, what
 * came first goes first.
 */
export class FairQueue<Value> {
  private readonly lines = new Map<number | undefined, Value[]>();

  get length(): number {
    let sum = 0;
    for (const line of this.lines.values()) sum += line.length;
    return sum;
  }

  push(value: Value, whose = onWhoseBehalf()): void {
    const line = this.lines.get(whose);
    if (line) line.push(value);
    else this.lines.set(whose, [value]);
  }

  /** Takes out what is next; whose line it was goes behind the others. */
  shift(): Value | undefined {
    const [first] = this.lines;
    if (!first) return undefined;
    const [whose, line] = first;
    const value = line.shift();
    this.lines.delete(whose);
    if (line.length > 0) this.lines.set(whose, line);
    return value;
  }

  /** Takes out one that is no longer wanted. Answers whether it was there. */
  remove(value: Value): boolean {
    for (const [whose, line] of this.lines) {
      const at = line.indexOf(value);
      if (at < 0) continue;
      line.splice(at, 1);
      if (line.length === 0) this.lines.delete(whose);
      return true;
    }
    return false;
  }

  /** Takes out all. */
  clear(): Value[] {
    const all = [...this.lines.values()].flat();
    this.lines.clear();
    return all;
  }
}
