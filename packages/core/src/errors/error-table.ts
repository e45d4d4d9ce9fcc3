/** The public error codes: HTTP status, title, and what to do next. docs/errors.md is generated from this table. */
export const ERROR_TABLE = {
  'file-refused': {
    status: 422,
    title: 'The file has mistakes',
    next: 'Mend these lines and try again; nothing was changed.',
  },
  'file-unreadable': { status: 422, title: 'The file cannot be read', next: 'Check the path and the format.' },
  'request-refused': { status: 400, title: 'The request is not as the API expects', next: 'See /api/openapi.json.' },
  'wrong-use': { status: 400, title: 'The command cannot be run so', next: 'See upsetter COMMAND --help.' },
  'too-large': { status: 413, title: 'The body is over the limit', next: 'Send less, or raise --max-body.' },
  'service-unknown': { status: 404, title: 'No such service', next: 'List them: upsetter services.' },
  'operation-unknown': { status: 404, title: 'No such operation', next: 'See upsetter show SERVICE.' },
  'case-unknown': { status: 404, title: 'No such case', next: 'See upsetter show SERVICE.' },
  'contract-unknown': {
    status: 404,
    title: 'The service names no contract',
    next: 'Name one in its file: contract: ./berth-desk.openapi.yaml',
  },
  'feed-unknown': { status: 404, title: 'No such feed', next: 'List them: upsetter feed list.' },
  'trial-unknown': { status: 404, title: 'No such trial', next: 'Each service lists its own in the console.' },
  'take-unknown': { status: 404, title: 'No such take', next: 'List them: upsetter take list.' },
  'take-known': {
    status: 409,
    title: 'There is a take of that name',
    next: 'Choose another name, or remove it: upsetter take remove NAME.',
  },
  'take-closed': { status: 409, title: 'The take is closed', next: 'See upsetter take show NAME.' },
  'upset-unknown': { status: 404, title: 'No such upset', next: 'See upsetter show SERVICE.' },
  'lane-unknown': { status: 404, title: 'No such lane', next: 'List them: upsetter lane list.' },
  'call-unknown': { status: 404, title: 'No such call', next: 'List them: upsetter calls.' },
  'call-ambiguous': { status: 409, title: 'Several calls begin so', next: 'Give more of the id.' },
  'revision-unknown': { status: 404, title: 'No such revision', next: 'List them: upsetter history NAME.' },
  'route-unknown': { status: 404, title: 'Nothing here', next: 'See /api/openapi.json.' },
  'changed-since': {
    status: 412,
    title: 'The service was changed since you read it',
    next: 'Look at what is there first: upsetter show SERVICE --file.',
  },
  'port-in-use': { status: 409, title: 'The port is taken', next: 'Choose another under `listen`, or port 0.' },
  'host-refused': { status: 403, title: 'Only loopback callers are served', next: 'Call 127.0.0.1 or localhost.' },
  'address-refused': { status: 400, title: 'Only loopback addresses can be served', next: 'Use --host 127.0.0.1.' },
  'evidence-gone': {
    status: 409,
    title: 'Calls this check needs are no longer kept',
    next: 'Check sooner, or narrow it with --since.',
  },
  'upstream-refused': {
    status: 403,
    title: 'The upstream is not allowed',
    next: 'Allow its host: upsetter up --allow HOST.',
  },
  'authority-unusable': {
    status: 500,
    title: "Upsetter's own authority cannot be used",
    next: 'Mend or remove the file; a new authority has to be trusted anew.',
  },
  'store-unavailable': { status: 503, title: 'The database cannot be reached', next: 'Is PostgreSQL running?' },
  'store-in-use': {
    status: 409,
    title: 'Another process serves this database',
    next: 'Stop it, or use another database.',
  },
  'service-unreachable': {
    status: 502,
    title: 'The service cannot be reached',
    next: 'Is it running? Start it: upsetter up.',
  },
  'expression-failed': {
    status: 500,
    title: 'An expression of the service file failed on this call',
    next: 'Mend the expression; `detail` says why.',
  },
  internal: { status: 500, title: 'A mistake of ours', next: 'Please report it with the log line.' },
} as const;

export type ErrorCode = keyof typeof ERROR_TABLE;
