import { useState } from 'react';
import { Button } from './Button.js';

const SAID_MS = 1_500;

export interface CopyButtonProps {
  readonly text: string;
  readonly what: string;
  /** Left out: copy. */
  readonly label?: string;
}

/** Copies a text; says so for a moment. */
export function CopyButton({ text, what, label = 'copy' }: CopyButtonProps) {
  const [copied, setCopied] = useState(false);
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(text);
    setCopied(true);
    setTimeout(() => setCopied(false), SAID_MS);
  };
  return (
    <Button data-kind="quiet" onPress={copy} aria-label={`Copy ${what}`}>
      {copied ? 'copied' : label}
    </Button>
  );
}
