/** What the server tells, as it is handed on: 'connected' is the connection's own. */
export interface EventMessage {
  event: 'job' | 'changed' | 'arrivals' | 'connected';
  data: unknown;
}

/** Follows the server's events on a connection of its own. Answers how to let go of it. */
export function connect(hand: (message: EventMessage) => void): () => void {
  const events = new EventSource('/api/events');
  for (const event of ['job', 'changed', 'arrivals'] as const)
    events.addEventListener(event, ({ data }: MessageEvent<string>) =>
      hand({ event, data: JSON.parse(data) }),
    );
  events.onopen = () => hand({ event: 'connected', data: true });
  events.onerror = () => hand({ event: 'connected', data: false });
  return () => events.close();
}
