import { copyFile, rm } from 'node:fs/promises';
import { ExifTool } from 'exiftool-vendored';
import { metadataOf, type Metadata } from '../../core/describe/metadata.ts';
import { LIMITS } from './limits.ts';

/** Groups by family 1, numbers as numbers, nothing composed, unmarked IPTC as Latin (it is looked at again), large films. */
const READ = ['-G1', '-n', '-fast', '-e', '-charset', 'iptc=Latin', '-api', 'largefilesupport=1'];

/** What tells where, with which device and by whose it was taken, and pictures from before an edit. */
const PRIVATE = [
  '-gps:all=',
  '-xmp:gps*=',
  '-xmp:Location*=',
  '-quicktime:gps*=',
  '-quicktime:location*=',
  '-keys:gps*=',
  '-keys:location*=',
  '-userdata:gps*=',
  '-itemlist:gps*=',
  '-makernotes:all=',
  '-*SerialNumber=',
  '-OwnerName=',
  '-CameraOwnerName=',
];
/** Where cameras and programs put a picture of the picture, the largest first. */
const PREVIEWS = [
  'JpgFromRaw',
  'PreviewImage',
  'OtherImage',
  'PhotoshopThumbnail',
  'ThumbnailImage',
] as const;
const STALE = ['-thumbnailimage=', '-previewimage='];

/** Reads and removes metadata in processes of their own, each answer with a time limit. */
export class MetadataTool {
  private tool: ExifTool | undefined;

  constructor(private readonly processes = 1) {}

  private start(): ExifTool {
    this.tool ??= new ExifTool({
      maxProcs: this.processes,
      taskTimeoutMillis: LIMITS.metadataTime,
      taskRetries: 0,
      maxTasksPerProcess: 500,
    });
    return this.tool;
  }

  /** What the file says of itself. Broken metadata gives what could be read of it, with a sentence. */
  async read(file: string): Promise<Metadata & { note?: string }> {
    try {
      const tags = (await this.start().readRaw(file, READ)) as Record<string, unknown>;
      return metadataOf(tags);
    } catch {
      // Whatever the reader stumbled over, the file itself is kept; the person is told.
      return {
        ...metadataOf({}),
        note: 'What the file says of itself could not be read, so nothing was taken from it.',
      };
    }
  }

  /** The largest JPEG that the file carries inside it as its own preview; undefined: none. */
  async embeddedPicture(file: string): Promise<Buffer | undefined> {
    for (const tag of PREVIEWS) {
      try {
        const found = await this.start().extractBinaryTagToBuffer(tag, file);
        if (found[0] === 0xff && found[1] === 0xd8) return found;
      } catch {
        // It does not have this one.
      }
    }
    return undefined;
  }

  /**
   * Writes a copy without old previews, and without place, serial numbers and owner names if wanted. Nothing is encoded
   * anew.
   */
  async copyWithoutPrivate(file: string, to: string, removePrivate: boolean): Promise<void> {
    await copyFile(file, to);
    try {
      await this.start().write(to, {}, [
        ...(removePrivate ? PRIVATE : []),
        ...STALE,
        '-overwrite_original',
        '-api',
        'largefilesupport=1',
        '-m',
      ]);
    } catch (error) {
      await rm(to, { force: true });
      throw error;
    }
  }

  async close(): Promise<void> {
    await this.tool?.end();
  }
}
