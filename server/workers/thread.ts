import { parentPort, Worker, type ResourceLimits, type Transferable } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import { Fault, type FaultCode } from '../fault.ts';

type Asked<Question> = { id: number; question: Question };
type Told<Answer> =
  | { id: number; answer: Answer }
  | { id: number; done: number; total: number }
  | { id: number; fault: { code: FaultCode; message: string; remedy: string; details: unknown } }
  | { id: number; error: string; code: string | undefined };
/** How far the answering of a question is. */
export type Progress = (done: number, total: number) => void;

type Waiting<Answer> = {
  done: (answer: Answer) => void;
  failed: (error: unknown) => void;
  progress: Progress | undefined;
};

/** One thread that answers questions, in their order. It starts with the first one, and again after it has failed. */
export class ThreadClient<Question, Answer> {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting<Answer>>();
  private nextId = 1;

  /**
   * @param file of the build
   * @param data workerData of the thread
   */
  constructor(
    private readonly file: string,
    private readonly data?: unknown,
    private readonly resourceLimits?: ResourceLimits,
  ) {}

  /**
   * @param transfer buffers of the question that the thread takes over
   * @throws Fault what the thread throws; its error with code when it ends
   */
  ask(question: Question, transfer: readonly Transferable[] = [], progress?: Progress): Promise<Answer> {
    const thread = (this.thread ??= this.start());
    const id = this.nextId++;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed, progress });
      thread.ref();
      thread.postMessage({ id, question } satisfies Asked<Question>, transfer);
    });
  }

  private start(): Worker {
    const { data, resourceLimits } = this;
    const thread = new Worker(builtFile(this.file), {
      workerData: data,
      ...(resourceLimits ? { resourceLimits } : {}),
    });
    thread.on('message', (told: Told<Answer>) => {
      const one = this.waiting.get(told.id);
      if ('done' in told) return one?.progress?.(told.done, told.total);
      this.waiting.delete(told.id);
      // A thread without a question does not keep the program running.
      if (this.waiting.size === 0) thread.unref();
      if ('answer' in told) one?.done(told.answer);
      else if ('fault' in told) {
        const { code, message, remedy, details } = told.fault;
        one?.failed(new Fault(code, message, remedy, details));
      } else one?.failed(Object.assign(new Error(told.error), { code: told.code }));
    });
    const lost = (error: Error) => {
      if (this.thread === thread) this.thread = undefined;
      for (const one of this.waiting.values()) one.failed(error);
      this.waiting.clear();
    };
    thread.on('error', lost);
    thread.on(
      'exit',
      () => this.thread === thread && lost(new Error(`the thread of ${this.file} was ended`)),
    );
    return thread;
  }

  async close(): Promise<void> {
    await this.thread?.terminate();
  }
}

/** Within a thread: answers what a ThreadClient asks. */
export function answerQuestions<Question, Answer>(
  answer: (question: Question, progress: Progress) => Answer | Promise<Answer>,
): void {
  const tell = (told: Told<Answer>) => parentPort!.postMessage(told);
  const reply = async ({ id, question }: Asked<Question>) => {
    try {
      const said = answer(question, (done, total) => tell({ id, done, total }));
      tell({ id, answer: said instanceof Promise ? await said : said });
    } catch (error) {
      if (error instanceof Fault) {
        const { code, message, remedy, details } = error;
        tell({ id, fault: { code, message, remedy, details } });
      } else {
        const { message, code } = error as NodeJS.ErrnoException;
        tell({ id, error: message, code });
      }
    }
  };
  parentPort!.on('message', (asked: Asked<Question>) => {
    reply(asked).catch((error: Error) => {
      process.nextTick(() => {
        throw error;
      });
    });
  });
}
