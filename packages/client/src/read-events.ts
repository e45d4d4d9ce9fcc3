export interface StreamEvent {
  readonly id: string | null;
  readonly name: string;
  readonly data: string;
}

/** The events of a Server-Sent Events body. Source: the HTML standard, 9.2.6. */
export async function* readEvents(body: ReadableStream<Uint8Array>): AsyncGenerator<StreamEvent> {
  const decoder = new TextDecoder();
  const reader = body.getReader();
  let text = '';
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    text += decoder.decode(value, { stream: true });
    const blocks = text.split(/\r?\n\r?\n/);
    text = blocks.pop() ?? '';
    for (const block of blocks) {
      const event = parseEvent(block);
      if (event.data !== '') yield event;
    }
  }
}

function parseEvent(block: string): StreamEvent {
  const event = { id: null as string | null, name: 'message', data: '' };
  for (const line of block.split(/\r?\n/)) {
    const colon = line.indexOf(':');
    if (colon <= 0) continue;
    const field = line.slice(0, colon);
    const value = line.slice(colon + 1).replace(/^ /, '');
    if (field === 'id') event.id = value;
    else if (field === 'event') event.name = value;
    else if (field === 'data') event.data += event.data === '' ? value : `\n${value}`;
  }
  return event;
}
