import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

const open: Server[] = [];

/** Has a server listen on this machine. @returns where */
export async function listening(server: Server): Promise<URL> {
  open.push(server);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return new URL(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
}

/** What is asked of a service, and how often, before it comes to the real one or gets another answer. */
export async function between(
  real: URL,
  instead: (request: IncomingMessage, body: Buffer, to: ServerResponse) => boolean | Promise<boolean>,
): Promise<URL> {
  const server = createServer((request, to) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      void (async () => {
        const body = Buffer.concat(parts);
        if (await instead(request, body, to)) return;
        const answer = await fetch(new URL(request.url!, real), {
          method: request.method!,
          ...(body.length > 0 ? { body: Uint8Array.from(body) } : {}),
        });
        const type = answer.headers.get('content-type')!;
        to.writeHead(answer.status, { 'Content-Type': type }).end(Buffer.from(await answer.arrayBuffer()));
      })().catch(() => to.destroy());
    });
  });
  return listening(server);
}

export function closeStandIns(): void {
  for (const one of open.splice(0)) {
    one.close();
    one.closeAllConnections();
  }
}
