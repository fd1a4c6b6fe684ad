import type { FindOptions } from '../../../core/document/find.ts';

/** How far a search has come. */
export interface FoundSoFar {
  total: number;
  /** Which of them is shown, from 0. */
  at: number;
  /** As “page 12”; '': not known yet. */
  where: string;
}

/** What finding needs of a document; it tells where it is: 'line 12', or nothing. */
export interface Findable {
  /**
   * @returns how many there are, at once or later
   * @param tell for documents that are searched page by page: called as often as more is known
   */
  find(words: string, options: FindOptions, tell: (found: FoundSoFar) => void): number | Promise<number>;
  /** Brings one into sight. */
  show(at: number): string;
  /** Nothing is marked any more. */
  end(): void;
}

/** What can be edited as well. */
export interface Replaceable extends Findable {
  /** Tells at once what has been typed, where that waits for a pause, or for a cell to be left. */
  settle?: () => void | Promise<void>;
  /** Something has been typed that it hasn’t told yet. */
  readonly waiting?: boolean;
  replace(at: number, by: string): void;
  replaceAll(by: string): void;
}
