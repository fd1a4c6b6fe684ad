import { Tokenizer } from 'parse5';

/** White space of HTML: it may be handled otherwise than other text, so it is never skipped by itself. */
function isSpace(codePoint: number): boolean {
  return codePoint === 32 || codePoint === 10 || codePoint === 9 || codePoint === 12;
}

/**
 * parse5's tokenizer for who wants tags only: of a run of text it reads up to the first character that is no white space,
 * and goes on at the next '<'. What follows in the run can change neither where tags stand nor how they are read: text
 * other than white space changes the state of the tree's construction once, and a character reference in text is text.
 * The text tokens that it hands over are thus cut short; offsets are right.
 */
export class QuickTokenizer extends Tokenizer {
  private skip(codePoint: number): void {
    // 38, 60: '&' and '<' begin something; 0 and less are NUL and the end.
    if (codePoint <= 0 || codePoint === 38 || codePoint === 60 || isSpace(codePoint)) return;
    const { html, pos } = this.preprocessor;
    const next = html.indexOf('<', pos + 1);
    this.preprocessor.pos = (next < 0 ? html.length : next) - 1;
  }

  protected override _stateData(codePoint: number): void {
    super._stateData(codePoint);
    this.skip(codePoint);
  }
  protected override _stateRcdata(codePoint: number): void {
    super._stateRcdata(codePoint);
    this.skip(codePoint);
  }
  protected override _stateRawtext(codePoint: number): void {
    super._stateRawtext(codePoint);
    this.skip(codePoint);
  }
  protected override _stateScriptData(codePoint: number): void {
    super._stateScriptData(codePoint);
    this.skip(codePoint);
  }
}
