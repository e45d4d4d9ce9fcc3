import type { ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, font, space } from '../theme/tokens.js';
import { formatCount } from './format.js';
import { Faint } from './Panel.js';

const File = styled.details`
  border-top: 1px solid ${color.hairline};
  padding: ${space.xs} 0;
  summary { cursor: pointer; }
  pre { max-height: 240px; overflow: auto; margin: ${space.xs} 0 0; font: 12px/1.5 ${font.mono}; white-space: pre-wrap; overflow-wrap: anywhere; }
`;

/** The files that a service file refers to, to be looked into. */
export function FilesBeside({ files }: { readonly files: ServiceView['files'] }) {
  const names = Object.keys(files);
  if (names.length === 0) return null;
  return (
    <section aria-label="Files beside">
      <Faint>{formatCount(names.length, 'file')} beside it</Faint>
      {names.map((name) => (
        <File key={name}>
          <summary>
            <code>{name}</code> <Faint>{describeFile(files[name])}</Faint>
          </summary>
          <pre>{files[name]?.content}</pre>
        </File>
      ))}
    </section>
  );
}

function describeFile(file: ServiceView['files'][string] | undefined): string {
  if (file?.kind === 'path') return `${Math.round(file.size / 1_000_000)} MB, sent from where it is`;
  const characters = file?.content.length ?? 0;
  return characters < 1000 ? `${characters} characters` : `${Math.round(characters / 1000)} thousand characters`;
}
