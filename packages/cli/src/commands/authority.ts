import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError, certificateFileOf } from '@upsetter/core/light';
import { EXIT } from '../exit.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface AuthorityExportOptions extends CommonOptions {
  readonly output?: string;
}

/** The certificate that applications have to trust, written to a file or printed. */
export async function exportAuthority(options: AuthorityExportOptions): Promise<number> {
  const { output } = options;
  const authority = await connect(options).readAuthority();
  if (output !== undefined)
    await writeFile(output, authority.certificate).catch((error: Error) => {
      throw new AppError('file-unreadable', `${output} cannot be written: ${error.message}`);
    });
  if (options.json === true) printJson(authority);
  else if (output === undefined) process.stdout.write(authority.certificate);
  else {
    print(`wrote ${paint.strong(output)}: ${authority.name}, valid until ${authority.validUntil.slice(0, 10)}`);
    print(paint.faint(`sha256 ${authority.fingerprint}`));
    print(`Trust it in the application only while you test, for example: NODE_EXTRA_CA_CERTS=${output}`);
    print(
      paint.faint(`or SSL_CERT_FILE, CURL_CA_BUNDLE, REQUESTS_CA_BUNDLE, a Java trust store, the browser's settings`),
    );
  }
  return EXIT.done;
}

export interface AuthorityIssueOptions extends CommonOptions {
  readonly output: string;
}

const OWNER_ONLY = 0o600;

/** A client certificate and its key, written to NAME.pem and NAME.key; a key is kept nowhere else. */
export async function issueClient(name: string, options: AuthorityIssueOptions): Promise<number> {
  const issued = await connect(options).issueClientCertificate(name);
  const file = join(options.output, certificateFileOf(name));
  try {
    await mkdir(options.output, { recursive: true });
    await writeFile(`${file}.pem`, issued.certificate);
    await writeFile(`${file}.key`, issued.key, { mode: OWNER_ONLY });
  } catch (error) {
    throw new AppError('file-unreadable', `${file}.pem cannot be written: ${(error as Error).message}`);
  }
  if (options.json === true) printJson({ name, certificate: `${file}.pem`, key: `${file}.key` });
  else {
    print(`wrote ${paint.strong(`${file}.pem`)} and ${paint.strong(`${file}.key`)}: a client certificate of ${name}`);
    print(
      paint.faint(`for example: curl --cert ${file}.pem --key ${file}.key --cacert upsetter-authority.pem https://...`),
    );
  }
  return EXIT.done;
}
