import { randomUUID } from 'node:crypto';

export interface JobView {
  id: string;
  kind: string;
  title: string;
  state: 'running' | 'done' | 'failed' | 'cancelled';
  done: number;
  total: number;
  /** What is being counted: 'files read'. */
  what: string;
  startedAt: string;
  error?: string;
}

export interface RunningJob {
  signal: AbortSignal;
  progress: (done: number, total: number, what: string) => void;
}

/** Long work, visible while it runs and for a while after. */
export class Jobs {
  private readonly views = new Map<string, JobView>();
  private readonly controllers = new Map<string, AbortController>();
  private readonly running = new Set<Promise<unknown>>();
  private readonly listeners = new Set<(job: JobView) => void>();

  constructor(private readonly now: () => string) {}

  list(): JobView[] {
    return [...this.views.values()];
  }

  onProgress(listener: (job: JobView) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Runs work as a job. Its failure is shown in the job and thrown to the caller. */
  async run<Result>(
    kind: string,
    title: string,
    work: (job: RunningJob) => Promise<Result>,
  ): Promise<Result> {
    const id = randomUUID();
    const controller = new AbortController();
    const view: JobView = {
      id,
      kind,
      title,
      state: 'running',
      done: 0,
      total: 0,
      what: '',
      startedAt: this.now(),
    };
    this.views.set(id, view);
    this.controllers.set(id, controller);
    this.tell(view);
    let lastTold = 0;
    const progress = (done: number, total: number, what: string) => {
      Object.assign(view, { done, total, what });
      // A few times a second is as often as anyone can read.
      if (performance.now() - lastTold < 150) return;
      lastTold = performance.now();
      this.tell(view);
    };
    const promise = work({ signal: controller.signal, progress });
    this.running.add(promise);
    try {
      const result = await promise;
      view.state = 'done';
      return result;
    } catch (error) {
      view.state = controller.signal.aborted ? 'cancelled' : 'failed';
      view.error = (error as Error).message;
      throw error;
    } finally {
      this.running.delete(promise);
      this.controllers.delete(id);
      this.tell(view);
      this.forgetOld();
    }
  }

  cancel(id: string): boolean {
    const controller = this.controllers.get(id);
    controller?.abort(new Error('cancelled'));
    return controller !== undefined;
  }

  async settled(): Promise<void> {
    for (const controller of this.controllers.values()) controller.abort(new Error('the server is stopping'));
    await Promise.allSettled([...this.running]);
  }

  private tell(view: JobView): void {
    for (const listener of this.listeners) listener({ ...view });
  }

  private forgetOld(): void {
    const ended = [...this.views.values()].filter((one) => one.state !== 'running');
    for (const one of ended.slice(0, Math.max(0, ended.length - 20))) this.views.delete(one.id);
  }
}
