import { spawn, type ChildProcess } from 'node:child_process';
import { createServer } from 'node:net';
import { builtFile } from '../server/built.ts';

const PEOPLE = 'Ottilie Marrow:steward,Ben Thistlewick:editor';

/** The real server as its own process, on free ports. */
export class RunningServer {
  private constructor(
    private readonly child: ChildProcess,
    readonly address: string,
    readonly servedAt: string,
    readonly said: () => string,
  ) {}

  static async start(site: string, flags: readonly string[] = []): Promise<RunningServer> {
    const port = await freePort();
    const child = spawn(
      process.execPath,
      [
        builtFile('server.js'),
        ...['--site', site, '--port', String(port)],
        ...(flags.includes('--asked') ? [] : ['--demo']),
        ...['--people', PEOPLE],
        ...flags.filter((flag) => flag !== '--asked'),
      ],
      { stdio: 'pipe' },
    );
    let said = '';
    child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
    await new Promise<void>((ready, failed) => {
      child.stdout.on('data', (chunk: Buffer) => {
        said += chunk.toString();
        if (said.includes('Iconomos is at')) ready();
      });
      child.on('exit', (code) => failed(new Error(`the server ended with ${code}: ${said}`)));
    });
    return new RunningServer(child, `http://127.0.0.1:${port}`, `http://127.0.0.1:${port + 1}`, () => said);
  }

  get pid(): number {
    return this.child.pid!;
  }

  async stop(): Promise<number | null> {
    if (this.child.exitCode !== null) return this.child.exitCode;
    const ended = new Promise<number | null>((done) => this.child.once('exit', done));
    this.child.kill('SIGTERM');
    return ended;
  }
}

/** A port that is free together with the next one. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = 20_000 + Math.floor(Math.random() * 20_000);
    if ((await isFree(port)) && (await isFree(port + 1))) return port;
  }
}

function isFree(port: number): Promise<boolean> {
  return new Promise((answer) => {
    const probe = createServer();
    probe.once('error', () => answer(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => answer(true)));
  });
}
