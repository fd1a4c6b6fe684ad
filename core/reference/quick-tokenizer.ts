import { Tokenizer } from 'parse5';

/** White space of HTML: it may be handled otherwise than other text, so it is never skipped by itself. */
function isSpace(codePoint: number): boolean {
  return codePoint === 32 || codePoint === 10 || codePoint === 9 || codePoint === 12;
}

/** The state of a start tag's quoted value, by the quote that ends it. */
const QUOTES = { double: 34, single: 39 } as const;

/**
 * parse5's tokenizer for who wants tags only: of a run of text it reads up to the first character that is no white space,
 * and goes on at the next '<'. What follows in the run can change neither where tags stand nor how they are read: text
 * other than white space changes the state of the tree's construction once, and a character reference in text is text.
 * The text tokens that it hands over are thus cut short; offsets are right. Names and quoted values are taken in one go up to
 * the first character that could mean anything else. Lines and columns are not kept.
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

  /** The rest of a value of which a character has just been taken: all up to its quote, a reference or a line end to be changed. */
  private takeValue(codePoint: number, quote: number): void {
    // Those have been dealt with, or begin something.
    if (codePoint === quote || codePoint === 38 || codePoint <= 0) return;
    const { html, pos } = this.preprocessor;
    let at = pos + 1;
    for (let code = html.charCodeAt(at); code > 0; code = html.charCodeAt(++at))
      if (code === quote || code === 38 || code === 13 || code > 255) break;
    this.runEnd = at;
    this.preprocessor.pos = at - 1;
  }

  protected override _stateAttributeValueDoubleQuoted(codePoint: number): void {
    super._stateAttributeValueDoubleQuoted(codePoint);
    this.takeValue(codePoint, QUOTES.double);
  }
  protected override _stateAttributeValueSingleQuoted(codePoint: number): void {
    super._stateAttributeValueSingleQuoted(codePoint);
    this.takeValue(codePoint, QUOTES.single);
  }

  /** The small letters that come next, which every name takes as they are. */
  private takeLetters(codePoint: number): string {
    if (!isSmallLetter(codePoint)) return '';
    const { html, pos } = this.preprocessor;
    let at = pos + 1;
    while (isSmallLetter(html.charCodeAt(at))) at++;
    this.preprocessor.pos = at - 1;
    return html.slice(pos + 1, at);
  }

  protected override _stateTagName(codePoint: number): void {
    super._stateTagName(codePoint);
    const token = this.currentToken;
    if (token && 'tagName' in token) token.tagName += this.takeLetters(codePoint);
  }
  protected override _stateAttributeName(codePoint: number): void {
    super._stateAttributeName(codePoint);
    this.currentAttr.name += this.takeLetters(codePoint);
  }
}

const isSmallLetter = (code: number) => code >= 97 && code <= 122;
