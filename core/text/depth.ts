/** So deep may what is read be nested: nothing that people write comes near, and no parser runs out of stack. */
export const DEEPEST = 500;

/**
 * Refuses what brackets nest too deeply, before a parser that goes down with them reads it.
 * @param quoted brackets between double quotes are text
 * @throws RangeError
 */
export function refuseDeepBrackets(text: string, quoted: boolean): void {
  let depth = 0;
  for (let at = 0; at < text.length; at++) {
    const char = text.charCodeAt(at);
    if (char === 0x5b || char === 0x7b) {
      if (++depth > DEEPEST) throw tooDeep();
    } else if (char === 0x5d || char === 0x7d) depth = Math.max(0, depth - 1);
    else if (quoted && char === 0x22) {
      for (at++; at < text.length && text.charCodeAt(at) !== 0x22; at++)
        if (text.charCodeAt(at) === 0x5c) at++;
    }
  }
}

/** Refuses lines that begin with very many marks of blocks within blocks, as Markdown and YAML have them. @throws RangeError */
export function refuseDeepLines(text: string): void {
  const lead = /[ \t>?\-+*:\d.)]*/y;
  for (let at = 0; at < text.length;) {
    lead.lastIndex = at;
    const [marks] = lead.exec(text)!;
    const opened = marks.length > DEEPEST ? marks.match(/[>?]|[-+*:.)](?=[ \t])/g) : null;
    if (opened && opened.length > DEEPEST) throw tooDeep();
    const end = text.indexOf('\n', at + marks.length);
    at = end < 0 ? text.length : end + 1;
  }
}

const tooDeep = () => new RangeError('It is nested too deeply');
