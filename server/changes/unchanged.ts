import type { SitePath } from '../../core/address/path.ts';

/** Of so many that stay for one reason, each is told by itself. */
const FEW = 3;

/** What a plan for many leaves as it is, by why: hundreds of the same kind are one sentence, so that what is done stays in sight. */
export class Unchanged {
  private readonly byReason = new Map<string, SitePath[]>();

  /** @param why as it follows a colon, with its full stop */
  add(path: SitePath, why: string): void {
    const there = this.byReason.get(why);
    if (there) there.push(path);
    else this.byReason.set(why, [path]);
  }

  /** In the order in which the reasons came up. */
  lines(): string[] {
    return [...this.byReason].flatMap(([why, paths]) => {
      const named = paths.slice(0, FEW).map((path) => `“${path}”`);
      const others = paths.length - FEW;
      if (others <= 0) return named.map((name) => `${name} is unchanged: ${why}`);
      const rest = others === 1 ? '1 other' : `${others.toLocaleString('en')} others`;
      return [
        `${paths.length.toLocaleString('en')} items are unchanged (${named.join(', ')} and ${rest}): ${why}`,
      ];
    });
  }
}
