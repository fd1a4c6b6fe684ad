import { parentPort, Worker, type ResourceLimits, type Transferable } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import { Fault, type FaultCode } from '../fault.ts';

type Asked<Question> = { id: number; question: Question };
type Told<Answer> =
  /** Said first, once the thread has started. */
  | { ready: true }
  | { id: number; answer: Answer }
  | { id: number; done: number; total: number }
  | { id: number; fault: { code: FaultCode; message: string; remedy: string; details: unknown } }
  | { id: number; error: string; code: string | undefined };
/** How far the answering of a question is. */
export type Progress = (done: number, total: number) => void;

type Waiting<Question, Answer> = {
  question: Question;
  done: (answer: Answer) => void;
  failed: (error: unknown) => void;
  progress: Progress | undefined;
};

interface ThreadOptions {
  resourceLimits?: ResourceLimits;
  /** How long one question may take; then it fails with this, and those behind it are asked of another thread. */
  time?: { milliseconds: number; fault: () => Fault };
}

/** One thread that answers questions, in their order. It starts with the first one, and again after it has failed. */
export class ThreadClient<Question, Answer> {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting<Question, Answer>>();
  private nextId = 1;
  private timer: NodeJS.Timeout | undefined;
  /** Until the thread has started, no time runs. */
  private ready = false;

  /**
   * @param file of the build
   * @param data workerData of the thread
   */
  constructor(
    private readonly file: string,
    private readonly data?: unknown,
    private readonly options: ThreadOptions = {},
  ) {}

  /** How many questions wait for their answer. */
  get busy(): number {
    return this.waiting.size;
  }

  /**
   * @param transfer buffers of the question that the thread takes over
   * @throws Fault what the thread throws; its error with code when it ends
   */
  ask(question: Question, transfer: readonly Transferable[] = [], progress?: Progress): Promise<Answer> {
    return new Promise((done, failed) => this.post({ question, done, failed, progress }, transfer));
  }

  private post(one: Waiting<Question, Answer>, transfer: readonly Transferable[] = []): void {
    const thread = (this.thread ??= this.start());
    const id = this.nextId++;
    this.waiting.set(id, one);
    thread.ref();
    thread.postMessage({ id, question: one.question } satisfies Asked<Question>, transfer);
    if (this.waiting.size === 1) this.watch();
  }

  /** Questions are answered one after the other: the time runs for the first. */
  private watch(): void {
    clearTimeout(this.timer);
    const { time } = this.options;
    if (!time || this.waiting.size === 0 || !this.ready) return;
    this.timer = setTimeout(() => this.giveUp(time.fault()), time.milliseconds);
    this.timer.unref();
  }

  /** The first takes too long. What a thread is at may not be stopped: it is left to its end, and the others get a new one. */
  private giveUp(fault: Fault): void {
    const [first, ...others] = this.waiting.values();
    this.waiting.clear();
    this.thread?.removeAllListeners();
    this.thread?.on('error', () => undefined);
    this.thread?.terminate().catch(() => undefined);
    this.thread = undefined;
    first?.failed(fault);
    for (const one of others) this.post(one);
  }

  private start(): Worker {
    const { data } = this;
    const { resourceLimits } = this.options;
    this.ready = false;
    const thread = new Worker(builtFile(this.file), {
      workerData: data,
      ...(resourceLimits ? { resourceLimits } : {}),
    });
    thread.on('message', (told: Told<Answer>) => {
      if ('ready' in told) {
        this.ready = true;
        return this.watch();
      }
      const one = this.waiting.get(told.id);
      if ('done' in told) return one?.progress?.(told.done, told.total);
      this.waiting.delete(told.id);
      this.watch();
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
      this.watch();
    };
    thread.on('error', lost);
    thread.on(
      'exit',
      () => this.thread === thread && lost(new Error(`the thread of ${this.file} was ended`)),
    );
    return thread;
  }

  async close(): Promise<void> {
    clearTimeout(this.timer);
    await this.thread?.terminate();
  }
}

/**
 * Within a thread: answers what a ThreadClient asks.
 * @param handedOver buffers of an answer that are handed over, not copied
 */
export function answerQuestions<Question, Answer>(
  answer: (question: Question, progress: Progress) => Answer | Promise<Answer>,
  handedOver: (answer: Answer) => readonly Transferable[] = () => [],
): void {
  const tell = (told: Told<Answer>) =>
    parentPort!.postMessage(told, 'answer' in told ? handedOver(told.answer) : []);
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
  tell({ ready: true });
}
