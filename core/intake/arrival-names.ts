import { lastNumber } from '../text/cut.ts';
import { cleanName, nameFaults, safeName } from '../address/name.ts';
import { baseName, extensionOf, stemOf, type SitePath } from '../address/path.ts';

/**
 * The name an arrived file is proposed to have: made of words, lower case, joined by hyphens. A name that a camera gave
 * becomes the file's title, or its folder's name, its day and its number.
 * @param given the name it came with; @param extension by its content, with dot
 * @param known what the file says of itself
 */
export function proposedName(
  given: string,
  extension: string,
  known: { title: string; takenAt: string | null; folder: SitePath },
): { name: string; plain: string } {
  // 'x.php' of 'x.php.jpg' is no extension: it becomes a word.
  const stem = /^\s*\.[a-z0-9]{1,5}$/i.test(given) ? '' : stemOf(given);
  const plain = cleanName(safeName(`${stem.replace(/\./g, '-') || 'file'}${extension}`));
  const faults = nameFaults(plain);
  if (faults.length === 0) return { name: plain, plain };
  if (known.title !== '') {
    const titled = cleanName(safeName(firstWords(known.title, 8) + extension));
    if (nameFaults(titled).length === 0) return { name: titled, plain };
  }
  const folder = baseName(known.folder);
  if (!/\p{L}{3}/u.test(folder) || SAYS_NOTHING.test(folder)) return { name: plain, plain };
  const number = lastNumber(stemOf(plain));
  const day = known.takenAt?.slice(0, 10);
  const parts = [folder, day, number && number !== day?.replace(/-/g, '') ? number : undefined].filter(
    Boolean,
  );
  const named = cleanName(safeName(parts.join(' ') + extension));
  return nameFaults(named).length === 0 ? { name: named, plain } : { name: plain, plain };
}

/** Folders whose name tells nothing of what lies in them. */
const SAYS_NOTHING =
  /^(img|imgs|images?|pics?|pictures?|photos?|media|assets|files?|uploads?|static|public|new|old|misc)$/i;

function firstWords(text: string, most: number): string {
  return text.split(/\s+/).slice(0, most).join(' ');
}

/** The folders of a path that came with a dropped tree, each made safe; '' for none. Never leads out of itself. */
export function safeFolder(given: string): SitePath {
  return given
    .split(/[/\\]+/)
    .filter((part) => part !== '' && part !== '.' && part !== '..')
    .map((part) => {
      const clean = cleanName(safeName(part.replace(/\./g, '-')));
      return extensionOf(clean) === '' ? clean : stemOf(clean);
    })
    .slice(0, 20)
    .join('/');
}

/** A folder inside another; either may be '' (the root, none). */
export function folderWithin(folder: SitePath, below: SitePath): SitePath {
  return [folder, below].filter(Boolean).join('/');
}
