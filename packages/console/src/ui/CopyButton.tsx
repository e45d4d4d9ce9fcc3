import { useState } from 'react';
import { Button } from './Button.js';

const SAID_MS = 1_500;

/** Copies a text; says so for a moment. */
export function CopyButton({ text, what }: { readonly text: string; readonly what: string }) {
  const [copied, setCopied] = useState(false);
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(text);
    setCopied(true);
    setTimeout(() => setCopied(false), SAID_MS);
  };
  return (
    <Button data-kind="quiet" onPress={copy} aria-label={`Copy ${what}`}>
      {copied ? 'copied' : 'copy'}
    </Button>
  );
}
