import { AsyncLocalStorage } from 'node:async_hooks';

const acting = new AsyncLocalStorage<string>();

/** Does something that came from there: 'window', or a token by its name. */
export const cameFrom = <Result>(where: string, work: () => Result): Result => acting.run(where, work);

/** Where what is done now came from; 'job': the application does it by itself. */
export const whereFrom = (): string => acting.getStore() ?? 'job';
