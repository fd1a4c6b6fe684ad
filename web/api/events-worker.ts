import { connect, type EventMessage } from './event-source.ts';

/**
 * One connection for all windows of a browser, which keeps only six to one server: the seventh window would wait for ever. Runs as a shared
 * worker; it ends with the last window.
 */
const windows = new Set<MessagePort>();
/** What a window that comes later has to be told. */
const jobs = new Map<string, EventMessage>();
const MOST_JOBS = 40;
let connection: EventMessage | undefined;

connect((message) => {
  if (message.event === 'following' || message.event === 'lost') connection = message;
  // Who comes later follows from here.
  if (message.event === 'changed') connection = { event: 'following', data: message.data };
  if (message.event === 'job') {
    const { id } = message.data as { id: string };
    jobs.delete(id);
    jobs.set(id, message);
    if (jobs.size > MOST_JOBS) jobs.delete(jobs.keys().next().value!);
  }
  for (const one of windows) one.postMessage(message);
});

const scope = self as unknown as { onconnect: (event: MessageEvent) => void };
scope.onconnect = ({ ports }) => {
  const [port] = ports as [MessagePort];
  windows.add(port);
  // A window that is left says so.
  port.onmessage = () => windows.delete(port);
  if (connection) port.postMessage(connection);
  for (const one of jobs.values()) port.postMessage(one);
};
