import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { Fault } from '../fault.ts';

/** So many wrong passwords, then nobody is let in by that name, or from that address, for so many seconds. */
const TRIES = { name: 10, address: 50 };
const BLOCKED = 15 * 60;
/** From the fourth on each takes longer, in milliseconds: twice as long as the one before, up to eight seconds. */
const FREE_TRIES = 3;
const FIRST_DELAY = 250;
const LONGEST_DELAY = 8000;

/** Slows down who guesses passwords: by the name that is tried, and by the address that it comes from. */
export class Slowing {
  private readonly byName = new RateLimiterMemory({
    points: TRIES.name,
    duration: BLOCKED,
    blockDuration: BLOCKED,
  });
  private readonly byAddress = new RateLimiterMemory({
    points: TRIES.address,
    duration: BLOCKED,
    blockDuration: BLOCKED,
  });

  constructor(
    private readonly wait: (milliseconds: number) => Promise<void> = (milliseconds) =>
      new Promise((done) => setTimeout(done, milliseconds)),
  ) {}

  /** Counts a try before it is looked at, so that many at once are no way round it. @throws Fault 'slowed' */
  async count(name: string, address: string): Promise<void> {
    try {
      await this.byAddress.consume(address);
      const { consumedPoints } = await this.byName.consume(name);
      const late = consumedPoints - FREE_TRIES - 1;
      if (late >= 0) await this.wait(Math.min(LONGEST_DELAY, FIRST_DELAY * 2 ** late));
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error;
      const minutes = Math.ceil(error.msBeforeNext / 60_000);
      throw new Fault(
        'slowed',
        'There were too many wrong passwords.',
        `Try again in ${minutes === 1 ? 'a minute' : `${minutes} minutes`}, or ask a steward for a new link.`,
      );
    }
  }

  /** That try was none: it had all but what is asked for next. */
  async uncount(name: string, address: string): Promise<void> {
    await this.byName.reward(name);
    await this.byAddress.reward(address);
  }

  /** It was the right one: what was tried before counts no more for the name. */
  async forget(name: string, address: string): Promise<void> {
    await this.byName.delete(name);
    await this.byAddress.reward(address);
  }
}
