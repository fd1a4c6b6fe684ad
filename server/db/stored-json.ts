/** Texts that were told already, so that a list which is read each second does not fill the log. */
const told = new Set<string>();

/**
 * A value that the database holds as JSON. One that is damaged comes as `otherwise`, so that its row takes no list down, and is told in the log.
 * @param what where it lies, for the log
 */
export function storedJson<Value>(text: string, otherwise: Value, what: string): Value {
  try {
    return JSON.parse(text) as Value;
  } catch {
    if (!told.has(what) && told.size < 1000) {
      told.add(what);
      process.stderr.write(`Damaged in the database: ${what}.\n`);
    }
    return otherwise;
  }
}
