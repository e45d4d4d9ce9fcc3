/**
 * The texts, each in the place of an equal one of `other` where there is one at the same position: what is kept of many
 * alike calls is kept once. The very list of `other` where all are.
 */
export function shareTexts(texts: readonly string[], other: readonly string[]): readonly string[] {
  if (texts.length !== other.length) return texts;
  for (let i = 0; i < texts.length; i++) if (texts[i] !== other[i]) return shareSome(texts, other);
  return other;
}

function shareSome(texts: readonly string[], other: readonly string[]): readonly string[] {
  return texts.map((text, i) => (text === other[i] ? (other[i] as string) : text));
}
