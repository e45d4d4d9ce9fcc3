import { describeUpset } from '@upsetter/core/light';
import type { ServiceSummary, ServiceView } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderTime } from '../output/render-call.js';
import { renderCount } from '../output/render-count.js';
import { renderTable } from '../output/render-table.js';
import { paint, print, printJson, tell } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export async function listServices(options: CommonOptions): Promise<number> {
  const services = await connect(options).listServices();
  if (options.json === true) printJson(services);
  else if (services.length === 0)
    print('No services yet. Make one: upsetter draft har FILE --adopt, or write a file and upsetter apply FILE.');
  else
    print(
      renderTable(
        ['service', 'version', 'address', 'operations', 'cases', 'calls/min', 'strays/min', 'upset by'],
        services.map(renderRow),
      ),
    );
  return EXIT.done;
}

function renderRow(service: ServiceSummary): string[] {
  return [
    paint.strong(service.name),
    service.version ?? '',
    service.address ?? paint.bad(service.trouble ?? 'not listening'),
    String(service.operations),
    String(service.cases),
    String(service.callsLastMinute),
    service.straysLastMinute > 0 ? paint.warn(String(service.straysLastMinute)) : '0',
    service.upsetsInForce.length > 0 ? paint.upset(service.upsetsInForce.join(', ')) : paint.faint('calm'),
  ];
}

export async function showService(name: string, options: CommonOptions & { file?: boolean }): Promise<number> {
  const service = await connect(options).readService(name);
  if (options.json === true) printJson(service);
  else if (options.file === true) {
    process.stdout.write(service.file);
    const beside = Object.keys(service.files).length;
    if (beside > 0)
      tell(paint.faint(`and ${renderCount(beside, 'file')} beside it: upsetter export ${name} DIR writes all`));
  } else print(renderService(service));
  return EXIT.done;
}

function renderService(service: ServiceView): string {
  const version = service.version === null ? '' : ` ${service.version}`;
  const lines = [
    `${paint.strong(service.name)}${version}  ${service.address ?? paint.bad(service.trouble ?? '')}  revision ${service.revision}`,
  ];
  for (const operation of service.operationList) {
    lines.push(
      '',
      `${paint.strong(operation.name)}  ${operation.on}${operation.title === null ? '' : paint.faint(`  ${operation.title}`)}`,
    );
    operation.cases.forEach((item, i) => {
      const when = item.when.map(({ place, wanted }) => `${place} ${wanted}`).join(', ');
      lines.push(
        `  ${i + 1}  ${item.case}  ${paint.faint(when === '' ? 'whatever comes' : `when ${when}`)}  ${item.added ?? String(item.answer.status ?? '')}`.trimEnd(),
      );
      if (item.unreachable !== null) lines.push(`     ${paint.warn(item.unreachable)}`);
    });
  }
  if (service.variables.length > 0) lines.push('', paint.strong('variables'));
  for (const { name, value, environment } of service.variables)
    lines.push(
      `  ${name}  ${JSON.stringify(value)}  ${paint.faint(environment === null ? '(in the file)' : `(environment ${environment})`)}`,
    );
  if (service.upsets.length > 0) lines.push('', paint.strong('upsets'));
  for (const { definition, from, inForce } of service.upsets) {
    const where = from === 'file' ? 'in the file' : 'switched on while running';
    // Its name may be what it does.
    const what = describeUpset(definition);
    lines.push(
      `  ${inForce ? paint.upset('in force') : paint.faint('calm    ')}  ${definition.upset}  ${paint.faint(`${what === definition.upset ? '' : `${what} `}(${where})`)}`,
    );
  }
  if (service.refusedConnections.length > 0) lines.push('', paint.strong('connections that came to nothing'));
  for (const { at, from, reason, times } of service.refusedConnections)
    lines.push(
      `  ${renderTime(at)}  ${times > 1 ? `${times} times  ` : ''}${from === null ? '' : `${from}  `}${paint.warn(reason)}`,
    );
  return lines.join('\n');
}

export async function removeService(name: string, options: CommonOptions): Promise<number> {
  await connect(options).removeService(name);
  if (options.json === true) printJson({ removed: name });
  else print(`${name} is removed; its calls stay in the log`);
  return EXIT.done;
}

export async function showHistory(name: string, options: CommonOptions): Promise<number> {
  const revisions = await connect(options).listRevisions(name);
  if (options.json === true) printJson(revisions);
  else
    print(
      renderTable(
        ['revision', 'saved', 'note'],
        revisions.map(({ revision, savedAt, note }) => [String(revision), savedAt, note ?? '']),
      ),
    );
  return EXIT.done;
}
