import { ZipFile } from 'yazl';

export const note = (arrival: { findings: { text: string }[] }) =>
  arrival.findings.map((one) => one.text).join(' ');

export async function zipOf(entries: Record<string, Buffer>, options: object = {}): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [name, bytes] of Object.entries(entries)) zip.addBuffer(bytes, name, options);
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}
