/** The file, without its ending, that a client certificate of this name is written to. */
export function certificateFileOf(name: string): string {
  return name.replaceAll(/[^\w.-]/g, '-');
}
