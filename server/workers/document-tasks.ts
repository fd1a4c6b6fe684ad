import { isPackage } from '../../core/document/document.ts';
import { lineEdits, sumOf, type LineEdit } from '../../core/document/line-changes.ts';
import { syntaxFault } from '../../core/document/syntax.ts';
import { NoText, readText, writeText } from '../../core/document/text-form.ts';
import { UnreadableOffice } from '../../core/office/package.ts';
import { NoSuchEdit } from '../../core/sheet/edits.ts';
import { NoSuchText } from '../../core/word/draft.ts';
import type { Compared, Tasks } from './tasks.ts';

type Name = 'write-text' | 'edit-workbook' | 'edit-word' | 'package-text' | 'line-edits' | 'line-changes';

const sheets = () => import('../../core/sheet/editor.ts');
const words = () => import('../../core/word/editor.ts');

/** What workers do with documents that are edited. */
export const documentTasks: {
  [Task in Name]: (given: Tasks[Task]['in']) => Tasks[Task]['out'] | Promise<Tasks[Task]['out']>;
} = {
  'write-text': ({ path, before, text }) =>
    whereText(
      () => {
        const was = readText(before).text;
        const fault = syntaxFault(path, was) ? undefined : syntaxFault(path, text);
        return { bytes: writeText(before, text), edits: lineEdits(was, text), fault };
      },
      (refused) => ({ refused }),
    ),

  'edit-workbook': ({ bytes, edits }) =>
    wherePackage(async () => (await sheets()).editedWorkbook(bytes, edits)),

  'edit-word': ({ bytes, blocks, images }) =>
    wherePackage(async () => ({ bytes: (await words()).editedWord(bytes, blocks, new Map(images)) })),

  'package-text': ({ bytes, kind }) =>
    wherePackage(async () => ({
      text: kind === 'word' ? (await words()).wordAsText(bytes) : (await sheets()).workbookAsText(bytes),
    })),

  'line-edits': editsBetween,

  async 'line-changes'(compared) {
    const edits = await editsBetween(compared);
    return edits && sumOf(edits);
  },
};

/** What changed from one version to another; null: one of them can't be read. */
async function editsBetween({ before, after, kind }: Compared): Promise<LineEdit[] | null> {
  if (!isPackage(kind))
    return whereText(
      () => lineEdits(readText(before).text, readText(after).text),
      () => null,
    );
  const edits = await wherePackage(async () =>
    kind === 'word'
      ? (await words()).wordEdits(before, after)
      : (await sheets()).workbookEdits(before, after),
  );
  return 'refused' in edits ? null : edits;
}

/** What is made of a package, or why it can't be, in a sentence. */
export async function wherePackage<Made>(make: () => Promise<Made>): Promise<Made | { refused: string }> {
  try {
    return await make();
  } catch (error) {
    const told = [UnreadableOffice, NoSuchEdit, NoSuchText, NoText].some((kind) => error instanceof kind);
    if (!told) throw error;
    return { refused: (error as Error).message };
  }
}

/** The same of bytes that are no text, and of texts that an encoding can't say. */
function whereText<Made, Other>(make: () => Made, other: (why: string) => Other): Made | Other {
  try {
    return make();
  } catch (error) {
    if (error instanceof NoText) return other(error.message);
    throw error;
  }
}
