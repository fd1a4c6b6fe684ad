import { NAME_FAULT_TEXTS } from '../address/name.ts';
import { extensionOf, joinPath, type SitePath } from '../address/path.ts';
import { nameCheck } from '../naming/check.ts';
import { followsPattern } from '../naming/follows.ts';
import { patternInWords } from '../naming/pattern.ts';
import { describe } from '../picture/recipe/describe.ts';
import { isNothing, type Recipe } from '../picture/recipe/recipe.ts';
import { treatmentInWords } from '../picture/recipe/treatments.ts';
import type { Subject } from '../picture/subject.ts';
import { canBeEdited, editedSize, isTreated, limitedSize, recipeAtDoor } from './preparing.ts';
import { hasShape, kindsInWords, type FolderRule } from './rules.ts';
import type { ChoiceCode, Finding, Checked, Outcome } from './finding.ts';

/** Everything the door has to say about a file. */
export function findingsOf(file: Checked): Finding[] {
  const found: Finding[] = [];
  const { choices, rule } = file;
  if (file.archive?.fault) {
    found.push({
      code: 'archive',
      text: `It can’t be unpacked: ${file.archive.fault}`,
      weight: 'warns',
      remedies: [{ key: 'keep', text: 'Keep as one file' }],
      chosen: 'keep',
    });
  } else if (file.archive) {
    found.push({
      code: 'archive',
      text: `An archive with ${files(file.archive.files)}, ${weight(file.archive.bytes)} unpacked.`,
      weight: choices.archive ? 'tells' : 'asks',
      remedies: [
        { key: 'unpack', text: 'Unpack into this folder' },
        { key: 'keep', text: 'Keep as one file' },
      ],
      ...(choices.archive ? { chosen: choices.archive } : {}),
    });
  }
  if (file.recipe) {
    found.push({
      code: 'edited',
      text: `Edited: ${describe(file.recipe)}`,
      weight: 'tells',
      remedies: [{ key: 'original', text: 'Back to the original' }],
    });
  }
  const [same] = file.same;
  if (same) {
    found.push({
      code: 'same',
      text: `This file already exists: “${same.path}”.`,
      weight: 'tells',
      remedies: [
        { key: 'use', text: 'Use the existing one' },
        { key: 'keep', text: 'Keep both' },
      ],
      chosen: choices.same ?? 'use',
      itemId: same.itemId,
      path: same.path,
    });
  }
  const [alike] = file.alike;
  // What is not stored needs nothing more.
  if (same && (choices.same ?? 'use') === 'use') return found;
  if (file.twin !== null && !same) {
    found.push({
      code: 'twin',
      text: `“${file.twin}” above is the same file.`,
      weight: 'tells',
      remedies: [
        { key: 'one', text: 'Keep only that one' },
        { key: 'keep', text: 'Keep both files' },
      ],
      chosen: choices.twin ?? 'one',
    });
    if ((choices.twin ?? 'one') === 'one') return found;
  }
  if (alike && !same) {
    const size = alike.width && alike.height ? ` (${alike.width} × ${alike.height} px)` : '';
    const canReplace = extensionOf(alike.path) === extensionOf(file.name);
    found.push({
      code: 'alike',
      text: `It looks like “${alike.path}”${size}${alike.turned ? ', mirrored or turned' : ''}${file.alike.length > 1 ? `, and like ${file.alike.length - 1} more` : ''}.`,
      weight: 'warns',
      remedies: [
        { key: 'keep', text: 'Keep both' },
        ...(canReplace ? [{ key: 'replace', text: 'Replace the existing one' }] : []),
        { key: 'skip', text: 'Skip this one' },
      ],
      chosen: choices.alike === 'replace' && !canReplace ? 'keep' : (choices.alike ?? 'keep'),
      itemId: alike.itemId,
      path: alike.path,
    });
  }
  if (file.clash && !same) {
    found.push({
      code: 'clash',
      text: `“${file.clash.path}” already has this name, with different content.`,
      weight: 'warns',
      remedies: [
        { key: 'number', text: 'Use a new name' },
        { key: 'replace', text: 'Replace as a new version' },
      ],
      chosen: choices.clash ?? 'number',
      itemId: file.clash.itemId,
      path: file.clash.path,
    });
  }
  if (file.namesake !== null && !file.clash && !same) {
    found.push({
      code: 'namesake',
      text: `“${file.namesake}” above gets the same name, so this one gets a number.`,
      weight: 'tells',
      remedies: [{ key: 'rename', text: 'Enter another name' }],
    });
  }
  if (rule.kinds && !rule.kinds.some((kind) => kind === file.kind)) {
    found.push({
      code: 'kind',
      text: `The folder is for ${kindsInWords(rule.kinds)}. Does it belong elsewhere?`,
      weight: 'warns',
      remedies: [],
    });
  }
  if (rule.pattern && !followsPattern(file.name, rule.pattern)) {
    found.push({
      code: 'kind',
      text: `Names in this folder consist of ${patternInWords(rule.pattern)}.`,
      weight: 'warns',
      remedies: [{ key: 'rename', text: 'Enter another name' }],
    });
  }
  const size = file.kind === 'image' ? editedSize(file) : null;
  if (size) {
    const need = needOf(rule);
    const small =
      (rule.leastWidth !== null && size.width < rule.leastWidth) ||
      (rule.leastHeight !== null && size.height < rule.leastHeight);
    if (small) {
      found.push({
        code: 'small',
        text: `Smaller than the folder requires: ${size.width} × ${size.height} px, ${need} wanted${rule.purpose ? ` for ${rule.purpose}` : ''}.${file.recipe ? '' : ' Is this a preview instead of the original?'}`,
        weight: 'warns',
        remedies: [
          { key: 'keep', text: 'Keep it' },
          { key: 'skip', text: 'Skip it' },
        ],
        chosen: choices.small ?? 'keep',
      });
    }
    if (rule.shape && !hasShape(size.width, size.height, rule.shape)) {
      found.push({
        code: 'shape',
        text: `Its aspect ratio isn’t ${rule.shape}, as the folder requires.`,
        weight: 'warns',
        remedies: [],
      });
    }
    if (rule.treatment && !file.recipe && canBeEdited(file)) {
      found.push({
        code: 'treat',
        text: `The folder’s treatment “${rule.treatment.name}”: ${treatmentInWords(rule.treatment)}.`,
        weight: 'tells',
        remedies: [
          { key: 'treat', text: 'Apply it' },
          { key: 'keep', text: 'Keep as it is' },
        ],
        chosen: isTreated(file) ? 'treat' : 'keep',
      });
    }
    const limit = limitedSize(file);
    if (limit) {
      const smaller = limit.width !== size.width || limit.height !== size.height;
      found.push({
        code: 'heavy',
        text:
          (smaller
            ? `Larger than needed: ${size.width} × ${size.height} px, ${weight(file.bytes)}.`
            : `File larger than needed: ${weight(file.bytes)}.`) +
          (rule.keepOriginal ? ' The original is kept off the site.' : ''),
        weight: 'tells',
        remedies: [
          {
            key: 'shrink',
            text: smaller ? `Shrink to ${limit.width} × ${limit.height} px` : 'Compress',
          },
          { key: 'keep', text: 'Keep as it is' },
        ],
        chosen: choices.heavy ?? 'shrink',
      });
    }
    const willBe = limit && choices.heavy !== 'keep' ? file.readyBytes : file.bytes;
    const most = rule.largestBytes;
    if (most !== null && willBe !== null && willBe > most && !(limit && choices.heavy === 'keep')) {
      found.push({
        code: 'heavy',
        text: limit
          ? `It is still ${weight(willBe)}, and the folder allows ${weight(most)}. Any smaller, it would no longer look sharp.`
          : `File larger than the folder allows: ${weight(willBe)}, at most ${weight(most)}. Files of this type can’t be compressed here.`,
        weight: 'warns',
        remedies: [],
      });
    }
  }
  const unseen = file.kind === 'image' ? UNSEEN[file.convertible ?? file.mime] : undefined;
  if (unseen && file.convertible !== null) {
    // What is edited is written anew, and in a format that browsers show.
    const edited = file.recipe !== null || isTreated(file);
    const kept = choices.type === 'keep' && !edited;
    found.push({
      code: 'type',
      text: kept
        ? `Browsers can’t display ${unseen}. Visitors would see nothing.`
        : `Browsers can’t display ${unseen}, so it is saved as JPEG.${rule.keepOriginal ? ' The original is kept off the site.' : ''}`,
      weight: kept ? 'warns' : 'tells',
      remedies: edited
        ? []
        : [
            { key: 'convert', text: 'Save as JPEG' },
            { key: 'keep', text: 'Keep as it is' },
          ],
      chosen: edited ? 'convert' : (choices.type ?? 'convert'),
    });
  } else if (unseen) {
    found.push({
      code: 'type',
      text: `Browsers can’t display ${unseen}. Visitors would see nothing. Save it as JPEG, PNG or WebP for pages.`,
      weight: 'warns',
      remedies: [],
    });
  }
  if (file.private.place || file.private.device) {
    const holds = file.private.place
      ? `It contains the place where it was taken${file.private.device ? ', and who owns the device' : ''}.`
      : 'It contains serial numbers or the name of the device’s owner.';
    const chosen = privateChoice(file);
    // What was to be taken out and could not be goes to the site only if a person says so.
    const asks = file.private.stays && chosen === 'remove';
    found.push({
      code: 'place',
      text: file.private.stays ? `${holds} It could not be removed.` : holds,
      weight: asks ? 'asks' : 'tells',
      remedies: [
        ...(file.private.stays
          ? [{ key: 'skip', text: 'Skip this one' }]
          : [{ key: 'remove', text: 'Remove and keep the rest' }]),
        { key: 'keep', text: 'Keep it' },
      ],
      ...(asks ? {} : { chosen }),
    });
  }
  const [fault] = nameCheck(file.name, rule.pattern).filter((one) => one !== 'rule');
  if (fault) {
    found.push({
      code: 'name',
      text: NAME_FAULT_TEXTS[fault],
      weight: 'warns',
      remedies: [{ key: 'rename', text: 'Enter another name' }],
    });
  } else if (file.name !== file.plainName) {
    found.push({
      code: 'name',
      text: `“${file.givenName}” isn’t a readable name, so a better one is suggested.`,
      weight: 'tells',
      remedies: [{ key: 'rename', text: 'Enter another name' }],
    });
  }
  for (const note of file.notes) found.push({ code: 'note', text: note, weight: 'tells', remedies: [] });
  if (rule.tags.length > 0 || rule.licence !== '') {
    const gives = [
      ...(rule.tags.length > 0 ? [`the tags ${rule.tags.map((tag) => `“${tag}”`).join(', ')}`] : []),
      ...(rule.licence !== '' ? [`the licence “${rule.licence}”, if it has none`] : []),
    ];
    found.push({
      code: 'given',
      text: `The folder adds ${gives.join(' and ')}.`,
      weight: 'tells',
      remedies: [],
    });
  }
  if (!file.described && file.kind === 'image') {
    found.push({
      code: 'undescribed',
      text: 'No alt text yet. You can add it later in Describe.',
      weight: 'tells',
      remedies: [{ key: 'describe', text: 'Add it now' }],
    });
  }
  return found;
}

/** What becomes of the file, by the remedies that are chosen. */
export function outcomeOf(file: Checked): Outcome {
  const findings = findingsOf(file);
  const chosen = (code: ChoiceCode) => findings.find((one) => one.code === code)?.chosen;
  if (findings.some((one) => one.weight === 'asks')) return { do: 'ask' };
  if (chosen('archive') === 'unpack') return { do: 'unpack' };
  if (chosen('same') === 'use') return { do: 'leave-out', instead: file.same[0]! };
  if (chosen('twin') === 'one') return { do: 'leave-out', instead: null };
  if (chosen('alike') === 'skip') return { do: 'leave-out', instead: file.alike[0]! };
  if (chosen('small') === 'skip' || chosen('place') === 'skip') return { do: 'leave-out', instead: null };
  if (chosen('alike') === 'replace') {
    const { itemId, path } = file.alike[0]!;
    return { do: 'replace', itemId, path };
  }
  if (chosen('clash') === 'replace') {
    const { itemId, path } = file.clash!;
    return { do: 'replace', itemId, path };
  }
  return { do: 'bring-in' };
}

/** What the copy that goes to the site is made by, and whether private facts are taken out of it. */
export function preparationOf(
  file: Checked,
  subject?: Subject,
): { recipe: Recipe | undefined; removePrivate: boolean } {
  const findings = findingsOf(file);
  const chosen = (code: ChoiceCode) => findings.find((one) => one.code === code)?.chosen;
  const recipe = recipeAtDoor(
    file,
    { shrink: chosen('heavy') === 'shrink', convert: chosen('type') === 'convert' },
    subject,
  );
  return {
    recipe: isNothing(recipe) ? undefined : recipe,
    // Also of what is not stored as it stands: the choice may yet change.
    removePrivate: (file.private.place || file.private.device) && privateChoice(file) === 'remove',
  };
}

/** Kinds of images that hardly any browser shows, in words. */
const UNSEEN: Record<string, string> = {
  'image/heic': 'HEIC images, which phones send',
  'image/heif': 'HEIF images',
  'image/jp2': 'JPEG 2000 images',
  'image/jxl': 'JPEG XL images',
  'image/tiff': 'TIFF images',
  'image/vnd.adobe.photoshop': 'layered PSD images',
  'image/x-adobe-dng': 'camera raw images',
  'image/x-canon-cr2': 'camera raw images',
  'image/x-nikon-nef': 'camera raw images',
  'image/x-sony-arw': 'camera raw images',
};

function privateChoice(file: Checked): 'keep' | 'remove' | 'skip' {
  return file.choices.place ?? (file.keepPrivate ? 'keep' : 'remove');
}

/** Where the file will stand. */
export function addressOf(file: { folder: SitePath; name: string }): SitePath {
  return joinPath(file.folder, file.name);
}

function needOf(rule: FolderRule): string {
  if (rule.leastWidth !== null && rule.leastHeight !== null)
    return `${rule.leastWidth} × ${rule.leastHeight} px`;
  return rule.leastWidth !== null ? `a width of ${rule.leastWidth} px` : `a height of ${rule.leastHeight} px`;
}

export function files(number: number): string {
  return number === 1 ? '1 file' : `${number.toLocaleString('en')} files`;
}

/** Decimal units, as file managers of the web count. */
export function weight(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  if (bytes >= 1e6) return `${(bytes / 1e6).toFixed(1)} MB`;
  return `${Math.max(1, Math.round(bytes / 1e3))} kB`;
}
