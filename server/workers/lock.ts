/** One at a time, in the order of asking. */
export class Lock {
  private last: Promise<unknown> = Promise.resolve();

  /** Runs work when all that was asked for before has ended, however it ended. */
  run<Result>(work: () => Promise<Result>): Promise<Result> {
    const result = this.last.then(work, work);
    this.last = result.catch(() => undefined);
    return result;
  }

  /** Resolves when all that has been asked for so far has ended. */
  async settled(): Promise<void> {
    await this.last;
  }
}
