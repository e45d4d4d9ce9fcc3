const ESCAPES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;',
};

/** What XML 1.0 cannot hold at all (2.2), escaped or not. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const UNSPEAKABLE = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

/** A text as it stands in an element or an attribute; characters that XML cannot hold are left out. */
export function escapeMarkup(text: string): string {
  return text.replaceAll(/[&<>"']/g, (character) => ESCAPES[character] ?? '').replaceAll(UNSPEAKABLE, '');
}
