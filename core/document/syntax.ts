import { parse, type ParseError } from 'jsonc-parser';
import { parseAllDocuments } from 'yaml';
import { extensionOf, type SitePath } from '../address/path.ts';

/** Where a text is not of its form. */
export interface SyntaxFault {
  form: 'JSON' | 'YAML';
  /** From 1. */
  line: number;
}

/** The first place at which a file of data can't be read by programs; undefined: it can, or it is no such file. */
export function syntaxFault(path: SitePath, text: string): SyntaxFault | undefined {
  switch (extensionOf(path)) {
    case '.json': {
      const errors: ParseError[] = [];
      parse(text, errors, { disallowComments: true, allowTrailingComma: false });
      const [first] = errors;
      return first && { form: 'JSON', line: text.slice(0, first.offset).split('\n').length };
    }
    case '.yml':
    case '.yaml': {
      for (const one of parseAllDocuments(text, { logLevel: 'silent' })) {
        const [first] = one.errors;
        if (first) return { form: 'YAML', line: first.linePos?.[0].line ?? 1 };
      }
      return undefined;
    }
    default:
      return undefined;
  }
}
