import fastify, { type FastifyInstance } from 'fastify';
import { type Element, parseXmlDocument } from 'slimdom';

interface Manifest {
  readonly id: string;
  readonly lodgedAt: string;
  /** As it was lodged: vessel, berth, lines. */
  readonly content: string;
  readonly clearedBy: string | null;
}

const M = 'urn:skerry-sound:manifests';
const QUAY_TONNES = 5000;
const DUES_PER_TONNE = 2;
const FIRST_ID = 7001;

/** What an operation answers: the body's element, or a fault with its reason and detail. */
type Answered = { readonly body: string } | { readonly fault: string; readonly detail: string };

/** The real manifest office: SOAP 1.1 and 1.2, manifests in memory, with ids and times of its own. */
export function createManifestOffice(): FastifyInstance {
  const app = fastify();
  const manifests = new Map<string, Manifest>();
  app.addContentTypeParser(
    ['text/xml', 'application/soap+xml'],
    { parseAs: 'string' },
    async (_request: unknown, body: string) => body,
  );
  app.post<{ Body: string }>('/manifests', async (request, reply) => {
    const root = parseXmlDocument(request.body).documentElement;
    const content = root?.children.find(({ localName }) => localName === 'Body')?.firstElementChild;
    const answered = answer(content ?? null, manifests);
    const isNew = root?.namespaceURI === 'http://www.w3.org/2003/05/soap-envelope';
    const status = 'body' in answered ? 200 : isNew ? 400 : 500;
    const type = isNew ? 'application/soap+xml; charset=utf-8' : 'text/xml; charset=utf-8';
    return reply
      .code(status)
      .type(type)
      .send(wrap(root?.namespaceURI ?? '', isNew, answered));
  });
  return app;
}

function answer(content: Element | null, manifests: Map<string, Manifest>): Answered {
  switch (content?.localName) {
    case 'lodgeManifest':
      return lodge(content, manifests);
    case 'readManifest':
      return onKnown(textOf(content, 'manifestId'), manifests, read);
    case 'clearManifest':
      return onKnown(textOf(content, 'manifestId'), manifests, (manifest) =>
        clear(manifest, textOf(content, 'by'), manifests),
      );
    case 'tariffQuestion': {
      const price = textOf(content, 'kind') === 'fuel' ? 120 : DUES_PER_TONNE;
      return {
        body: `<m:tariff xmlns:m="${M}" currency="SKC">${(Number(textOf(content, 'tonnes')) * price).toFixed(2)}</m:tariff>`,
      };
    }
    default:
      return { fault: 'No such operation', detail: '' };
  }
}

function lodge(content: Element, manifests: Map<string, Manifest>): Answered {
  const tonnes = content.getElementsByTagNameNS('*', 'tonnes').reduce((sum, own) => sum + Number(own.textContent), 0);
  if (tonnes > QUAY_TONNES) return refused(`The quay holds ${QUAY_TONNES} tonnes`);
  const id = `MF-${FIRST_ID + manifests.size}`;
  const manifest = content.getElementsByTagNameNS('*', 'manifest')[0];
  const lodgedAt = new Date().toISOString();
  manifests.set(id, { id, lodgedAt, content: manifest?.innerHTML ?? '', clearedBy: null });
  const dues = (tonnes * DUES_PER_TONNE).toFixed(2);
  return {
    body: `<m:lodgeManifestResponse xmlns:m="${M}"><m:manifestId>${id}</m:manifestId><m:lodgedAt>${lodgedAt}</m:lodgedAt><m:dues currency="SKC">${dues}</m:dues></m:lodgeManifestResponse>`,
  };
}

function onKnown(id: string, manifests: Map<string, Manifest>, go: (manifest: Manifest) => Answered): Answered {
  const manifest = manifests.get(id);
  if (manifest !== undefined) return go(manifest);
  return {
    fault: 'No such manifest',
    detail: `<m:manifestUnknown xmlns:m="${M}"><m:manifestId>${id}</m:manifestId></m:manifestUnknown>`,
  };
}

function read({ id, content, lodgedAt, clearedBy }: Manifest): Answered {
  const state = clearedBy === null ? 'lodged' : 'cleared';
  return {
    body: `<m:readManifestResponse xmlns:m="${M}"><m:manifest id="${id}" state="${state}">${content}<m:lodgedAt>${lodgedAt}</m:lodgedAt></m:manifest></m:readManifestResponse>`,
  };
}

function clear(manifest: Manifest, by: string, manifests: Map<string, Manifest>): Answered {
  if (manifest.clearedBy !== null) return refused(`Cleared by ${manifest.clearedBy}`);
  manifests.set(manifest.id, { ...manifest, clearedBy: by });
  return {
    body: `<m:clearManifestResponse xmlns:m="${M}"><m:manifestId>${manifest.id}</m:manifestId><m:state>cleared</m:state><m:clearedAt>${new Date().toISOString()}</m:clearedAt></m:clearManifestResponse>`,
  };
}

function refused(reason: string): Answered {
  return {
    fault: reason,
    detail: `<m:manifestRefused xmlns:m="${M}"><m:reason>${reason}</m:reason></m:manifestRefused>`,
  };
}

function wrap(namespace: string, isNew: boolean, answered: Answered): string {
  const body = 'body' in answered ? answered.body : renderFault(isNew, answered.fault, answered.detail);
  return `<e:Envelope xmlns:e="${namespace}"><e:Body>${body}</e:Body></e:Envelope>`;
}

function renderFault(isNew: boolean, reason: string, detail: string): string {
  return isNew
    ? `<e:Fault><e:Code><e:Value>e:Sender</e:Value></e:Code><e:Reason><e:Text xml:lang="en">${reason}</e:Text></e:Reason><e:Detail>${detail}</e:Detail></e:Fault>`
    : `<e:Fault><faultcode>e:Client</faultcode><faultstring>${reason}</faultstring><detail>${detail}</detail></e:Fault>`;
}

function textOf(element: Element, name: string): string {
  return element.getElementsByTagNameNS('*', name)[0]?.textContent ?? '';
}
