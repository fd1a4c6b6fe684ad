import { createReadStream, createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { finished, pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';

/** A file that goes into an archive; `compress`: it is deflated, else stored as it is. */
export interface ZipEntry {
  file: string;
  name: string;
  compress: boolean;
}

/** Writes a ZIP archive (APPNOTE 6.3): one file after the other, so that what is told of it has been done. */
export class ZipWriter {
  private readonly zip = new ZipFile();
  private readonly written: Promise<void>;

  constructor(target: string) {
    const output = this.zip.outputStream as NodeJS.ReadableStream & { destroy(error: Error): void };
    this.written = pipeline(output, createWriteStream(target));
    // Told to who waits for a file, or for the end.
    this.written.catch(() => undefined);
    // A file that changes while it is read must fail the archive, not cut it short.
    this.zip.on('error', (error: Error) => output.destroy(error));
  }

  text(name: string, text: string): void {
    this.zip.addBuffer(Buffer.from(text, 'utf8'), name);
  }

  async add(entry: ZipEntry): Promise<void> {
    await Promise.race([this.stream(entry), this.written]);
  }

  async end(): Promise<void> {
    this.zip.end();
    await this.written;
  }

  private async stream({ file, name, compress }: ZipEntry): Promise<void> {
    const { size, mtime, mode } = await stat(file);
    const bytes = createReadStream(file);
    this.zip.addReadStream(bytes, name, { size, mtime, mode, compress });
    await finished(bytes);
  }
}
