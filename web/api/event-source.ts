/** What the server tells, as it is handed on: 'following' and 'lost' are of the connection itself. */
export interface EventMessage {
  event: 'job' | 'changed' | 'arrivals' | 'people' | 'submissions' | 'following' | 'lost';
  data: unknown;
}

/** Follows the server's events on a connection of its own. Answers how to let go of it. */
export function connect(hand: (message: EventMessage) => void): () => void {
  const events = new EventSource('/api/events');
  for (const event of ['job', 'changed', 'arrivals', 'people', 'submissions', 'following'] as const)
    events.addEventListener(event, ({ data }: MessageEvent<string>) =>
      hand({ event, data: JSON.parse(data) }),
    );
  events.onerror = () => hand({ event: 'lost', data: null });
  return () => events.close();
}
