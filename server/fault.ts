/**
 * An error that a person can be told: what is wrong and what to do. Everything else is a defect and becomes
 * "something went wrong inside" at the edge, with its details in the log only.
 */
export class Fault extends Error {
  constructor(
    /** For programs: a short word with dashes. */
    readonly code: FaultCode,
    /** One sentence for the person: what is wrong. */
    message: string,
    /** One sentence: what to do. */
    readonly remedy: string,
    /** More for programs: the current record, the paths that moved. */
    readonly details?: unknown,
  ) {
    super(message);
    this.name = 'Fault';
  }
}

export type FaultCode =
  | 'no-site'
  | 'data-folder'
  | 'outside'
  | 'not-found'
  | 'bad-request'
  | 'moved-on'
  /** A change stopped half way; until it is settled, nothing else is changed. */
  | 'unsettled'
  | 'clash'
  | 'stale-record'
  | 'refused-file'
  | 'too-large'
  | 'disk-full'
  | 'busy'
  | 'cancelled'
  | 'forbidden'
  /** Nobody is signed in. */
  | 'signed-out'
  | 'code-needed'
  | 'slowed';
