import type { AuthorityExportOptions, AuthorityIssueOptions } from '../commands/authority.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands about Upsetter's own certificate authority. */
export function addAuthorityCommands(add: CommandAdder): void {
  const authority = add.group(
    'authority',
    "Upsetter's own certificate authority, which applications trust to call https mocks, and to be heard over https.",
    'upsetter authority export -o upsetter-authority.pem',
  );
  const exporting = withCommon(
    add.command(
      'export',
      'Write its certificate as PEM; the first time, it is made.',
      'upsetter authority export -o upsetter-authority.pem',
      authority,
    ),
  ).option('-o, --output <file>', 'the file (default: print it)');
  add.action(exporting, async (options: AuthorityExportOptions) =>
    (await import('../commands/authority.js')).exportAuthority(options),
  );
  const issuing = withCommon(
    add.command(
      'issue <name>',
      'Write a client certificate of NAME and its key: what mocks with `listen.tls.clients` ask callers for.',
      'upsetter authority issue petrel -o certificates',
      authority,
    ),
  ).option('-o, --output <dir>', 'the folder', '.');
  add.action(issuing, async (name: string, options: AuthorityIssueOptions) =>
    (await import('../commands/authority.js')).issueClient(name, options),
  );
}
