/** What of the parser of formulas is used here; it brings no types of its own. */
declare module 'fast-formula-parser' {
  export interface CellReference {
    sheet: string;
    /** From 1. */
    row: number;
    col: number;
  }
  export interface RangeReference {
    sheet: string;
    from: { row: number; col: number };
    to: { row: number; col: number };
  }
  export type Value = number | string | boolean | null | undefined | Fault;
  export interface Fault {
    /** As “#DIV/0!”; “#ERROR!” where a formula can't be read or worked out at all. */
    readonly name: string;
  }
  export interface Argument {
    value: Value | Value[][];
  }
  export default class FormulaParser {
    static readonly FormulaError: new (name: string) => Error & Fault;
    constructor(config: {
      functions?: Record<string, (...values: (Argument | undefined)[]) => Value>;
      onCell: (at: CellReference) => Value;
      onRange: (at: RangeReference) => Value[][];
      onVariable: (name: string, sheet: string) => CellReference | RangeReference | null;
    });
    /** @throws FormulaError “#ERROR!” */
    parse(formula: string, position: CellReference): Value | Value[][];
    supportedFunctions(): string[];
  }
}
