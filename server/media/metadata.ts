import { copyFile, open, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { ExifTool, exiftoolPath } from 'exiftool-vendored';
import {
  KEYWORD_NAMES,
  TEXT_FIELD_KEYS,
  TEXT_FIELDS,
  type FieldKind,
  type Words,
} from '../../core/describe/fields.ts';
import { metadataOf, type Metadata } from '../../core/describe/metadata.ts';
import { limited } from '../workers/limited.ts';
import { blankPlaces, filmPlaces } from './film-places.ts';
import { LIMITS } from '../limits.ts';

/** Groups by family 1, numbers as numbers, nothing composed, unmarked IPTC as Latin (it is looked at again), large videos. */
const READ = ['-G1', '-n', '-fast', '-e', '-charset', 'iptc=Latin', '-api', 'largefilesupport=1'];

/** What tells where, with which device and by whose it was taken, and images from before an edit. */
const PRIVATE = [
  '-gps:all=',
  '-xmp:gps*=',
  '-xmp:Location*=',
  '-quicktime:gps*=',
  '-quicktime:location*=',
  '-keys:gps*=',
  '-keys:location*=',
  '-userdata:gps*=',
  '-userdata:location*=',
  '-itemlist:gps*=',
  '-itemlist:location*=',
  '-makernotes:all=',
  '-*SerialNumber=',
  '-OwnerName=',
  '-CameraOwnerName=',
];
/** What an image tells that goes along into what is made of it: all its texts and how it was taken, but nothing of the above and no small images. */
const TOLD = [
  '-exif:all',
  '-xmp:all',
  '-iptc:all',
  '-png:all',
  '-file:comment',
  '--gps:all',
  '--gps*',
  '--xmp:Location*',
  '--makernotes:all',
  '--*SerialNumber',
  '--OwnerName',
  '--CameraOwnerName',
  '--ifd1:all',
  '--ThumbnailImage',
  '--PreviewImage',
];
/** Where cameras and programs put an image of the image, the largest first. */
const PREVIEWS = [
  'JpgFromRaw',
  'PreviewImage',
  'OtherImage',
  'PhotoshopThumbnail',
  'ThumbnailImage',
] as const;
const WRITE = ['-overwrite_original', '-api', 'largefilesupport=1', '-charset', 'iptc=UTF8', '-m'];
const STALE = ['-thumbnailimage=', '-previewimage='];
const EMPTY_XMP =
  '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"/></x:xmpmeta><?xpacket end="w"?>';

/** The tool takes character references in values for what they stand for: a text that holds one is written with its ampersand as one. */
const literal = (text: string): string => text.replaceAll('&', '&amp;');

/** What tells the metadata tool to write a record's words. @param only names of this group */
function wordArguments(words: Words, only?: 'XMP'): string[] {
  const written = (name: string) => only === undefined || name.startsWith(only);
  const args: string[] = only ? [] : ['-IPTC:CodedCharacterSet=UTF8'];
  for (const field of TEXT_FIELD_KEYS) {
    for (const name of TEXT_FIELDS[field].writes) {
      if (!written(name)) continue;
      // Dates of XMP are written with colons in the day.
      const { form }: FieldKind = TEXT_FIELDS[field];
      const text =
        form === 'day' || form === 'moment'
          ? words[field].replace(/^(\d{4})-(\d\d)-(\d\d)/, '$1:$2:$3').replace('T', ' ')
          : words[field];
      args.push(`-${name}=${literal(text.replace(/\n/g, ' '))}`);
    }
  }
  for (const name of KEYWORD_NAMES) {
    if (!written(name)) continue;
    args.push(`-${name}=`, ...words.tags.map((tag) => `-${name}=${literal(tag)}`));
  }
  return args;
}

/** How archives begin, whose names and contents say nothing of an image. */
const ARCHIVES = ['504b0304', '1f8b', '377abcaf', '52617221', '425a68', 'fd377a585a'];

/** True for what is an archive by its name and by its first bytes: each alone may be wrong. */
async function isArchive(file: string, name: string): Promise<boolean> {
  if (!/\.(?:zip|gz|tgz|7z|rar|bz2|xz)$/i.test(name)) return false;
  const handle = await open(file, 'r');
  try {
    const { buffer } = await handle.read(Buffer.alloc(8), 0, 8, 0);
    const start = buffer.toString('hex');
    return ARCHIVES.some((one) => start.startsWith(one));
  } finally {
    await handle.close();
  }
}

/** Formats into which words can be written without touching what they show. */
export const TAKES_WORDS = /\.(jpe?g|png|webp|tiff?|gif|avif|heic|psd|dng|pdf|mp4|mov|m4a)$/i;

/** Reads and removes metadata in processes of their own, each with a limit of memory, each answer with a time limit. */
export class MetadataTool {
  private tool: Promise<ExifTool> | undefined;

  constructor(private readonly processes: number = LIMITS.metadataProcesses) {}

  private start(): Promise<ExifTool> {
    this.tool ??= exiftoolPath().then((path) => {
      const { command, args } = limited(LIMITS.metadataMemory, path, ['-stay_open', 'True', '-@', '-']);
      return new ExifTool({
        exiftoolPath: command,
        exiftoolArgs: args,
        ignoreShebang: false,
        maxProcs: this.processes,
        taskTimeoutMillis: LIMITS.metadataTime,
        taskRetries: 0,
        maxTasksPerProcess: 500,
      });
    });
    return this.tool;
  }

  /** What the file says of itself; of an archive, nothing is asked. Broken metadata gives what could be read of it, with a sentence. */
  async read(file: string, name = file): Promise<Metadata & { note?: string }> {
    if (await isArchive(file, name)) return metadataOf({});
    try {
      const tags = (await (await this.start()).readRaw(file, READ)) as Record<string, unknown>;
      const meta = metadataOf(tags);
      // The tool ends where the images of a video begin, and does not name all keys.
      const film = /^(video|audio)\//.test(String(tags['File:MIMEType']));
      return film && !meta.place ? { ...meta, place: (await filmPlaces(file)) > 0 } : meta;
    } catch {
      // Whatever the reader stumbled over, the file itself is kept; the person is told.
      return {
        ...metadataOf({}),
        note: 'The file’s metadata couldn’t be read.',
      };
    }
  }

  /** The largest JPEG that the file carries inside it as its own preview; undefined: none. */
  async embeddedPicture(file: string): Promise<Buffer | undefined> {
    for (const tag of PREVIEWS) {
      try {
        const found = await (await this.start()).extractBinaryTagToBuffer(tag, file);
        if (found[0] === 0xff && found[1] === 0xd8) return found;
      } catch {
        // It does not have this one.
      }
    }
    return undefined;
  }

  /** Writes a copy without old previews, in which nothing is encoded anew. */
  async copyWithoutPreviews(file: string, to: string): Promise<void> {
    await copyFile(file, to);
    await this.write(to, STALE);
  }

  /** Gives an image that was made of another what that one tells of itself: when, where and by whom it was taken. It is upright already. */
  async carryOver(from: string, to: string): Promise<void> {
    await this.write(to, ['-TagsFromFile', from, '-all:all', '-ICC_Profile', '-Orientation#=1', ...STALE]);
  }

  /**
   * Writes a copy without old previews, place, serial numbers and owner names; nothing is encoded anew. The copy is read
   * again. Answers whether nothing of that is left in it: false, and there is no copy.
   */
  async copyWithoutPrivate(file: string, to: string): Promise<boolean> {
    await copyFile(file, to);
    try {
      // Formats that cannot be written may still have places that can be written over.
      await this.write(to, [...PRIVATE, ...STALE]).catch(() => copyFile(file, to));
      await blankPlaces(to);
      const left = await this.read(to);
      if (!left.place && !left.device && left.note === undefined) return true;
      await rm(to, { force: true });
      return false;
    } catch (error) {
      await rm(to, { force: true });
      throw error;
    }
  }

  /**
   * The same without old previews, place, serial numbers and owner names, at one go: for what was just encoded and tells nothing of its own.
   * It is read again. @returns whether nothing of that is in it
   */
  async carryWithoutPrivate(from: string, to: string): Promise<boolean> {
    await this.write(to, ['-TagsFromFile', from, ...TOLD, '-Orientation#=1']);
    const left = await this.read(to);
    return !left.place && !left.device && left.note === undefined;
  }

  private async write(file: string, args: readonly string[]): Promise<void> {
    await (
      await this.start()
    ).write(file, {}, [...args, '-overwrite_original', '-api', 'largefilesupport=1', '-m']);
  }

  /**
   * Writes a copy that carries a record's words under their IPTC and XMP names; an empty field takes its name out. Nothing
   * else of the file changes, and no image is encoded anew. @throws for formats that cannot be written
   */
  async copyWithWords(file: string, to: string, words: Words): Promise<void> {
    await copyFile(file, to);
    try {
      await (await this.start()).write(to, {}, [...wordArguments(words), ...WRITE]);
    } catch (error) {
      await rm(to, { force: true });
      throw error;
    }
  }

  /** Writes a record's words as an XMP file of its own (ISO 16684-1). */
  async sidecar(words: Words, to: string): Promise<void> {
    await rm(to, { force: true });
    const bare = join(dirname(to), `.${basename(to)}`);
    // A new XMP file is made by copying the words' names into one that does not exist yet.
    await writeFile(bare, EMPTY_XMP);
    try {
      await (await this.start()).write(bare, {}, [...wordArguments(words, 'XMP'), ...WRITE]);
      await rename(bare, to);
    } finally {
      await rm(bare, { force: true });
    }
  }

  async close(): Promise<void> {
    await (await this.tool)?.end();
  }
}
