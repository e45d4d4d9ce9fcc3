import { z } from 'zod';

/** A file beside a service file: text, or bytes as base64; `path`: so large that it stays where it is, with its size in bytes. */
export const besideFileSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('text'), content: z.string() }),
  z.object({ kind: z.literal('base64'), content: z.string() }),
  z.object({ kind: z.literal('path'), content: z.string(), size: z.int().min(0) }),
]);
export type BesideFile = z.output<typeof besideFileSchema>;

/** Files by the name they are referred to by: `./berth-desk/listBerths.usual.json`. */
export const besideFilesSchema = z.record(z.string(), besideFileSchema);
export type BesideFiles = Readonly<Record<string, BesideFile>>;

/** All of a service file: its own text, and the files beside it that it refers to. */
export interface ServiceText {
  readonly text: string;
  readonly files: BesideFiles;
}

/** Whether a value refers to a file: `./name.ending`, with nothing in it that is made from the call. */
export function isReference(value: unknown): value is string {
  return typeof value === 'string' && /^\.\.?\/[^\s$]+\.[A-Za-z0-9]{1,8}$/.test(value);
}

/** What a file holds as text; null when it is no UTF-8. */
export function textOfBeside(file: BesideFile): string | null {
  if (file.kind === 'text') return file.content;
  if (file.kind === 'path') return null;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(
      Uint8Array.from(atob(file.content), (c) => c.charCodeAt(0)),
    );
  } catch {
    return null;
  }
}
