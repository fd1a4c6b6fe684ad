/** What services tell each other and the windows, with what comes along. */
interface Told {
  /** Something is known of the library now that was not before. */
  changed: [];
  /** The list of files that come in is not what it was. */
  arrivals: [];
  /** The rules of a folder are others now. */
  rules: [];
  /** Somebody has another role, or a session has ended. */
  people: [];
  /** A proposal was made or answered. */
  submissions: [];
  /** Images with these bytes turned out to look like others. */
  'alike-found': [sha256s: readonly string[]];
}

/** By these, services speak with others that they need not know. */
export class Events {
  private readonly listeners: { [Name in keyof Told]: Set<(...told: Told[Name]) => void> } = {
    changed: new Set(),
    arrivals: new Set(),
    rules: new Set(),
    people: new Set(),
    submissions: new Set(),
    'alike-found': new Set(),
  };
  private changes = 0;

  /** Which state of the library an answer tells of: another one after each 'changed', and after each start. */
  get revision(): string {
    return `${this.begun}.${this.changes}`;
  }

  /** @param begun what no other start has */
  constructor(private readonly begun = Date.now().toString(36)) {}

  emit<Name extends keyof Told>(name: Name, ...told: Told[Name]): void {
    if (name === 'changed') this.changes++;
    for (const listener of this.listeners[name]) listener(...told);
  }

  /** Calls `listener` each time from now on. @returns how to stop listening */
  on<Name extends keyof Told>(name: Name, listener: (...told: Told[Name]) => void): () => void {
    this.listeners[name].add(listener);
    return () => this.listeners[name].delete(listener);
  }
}
