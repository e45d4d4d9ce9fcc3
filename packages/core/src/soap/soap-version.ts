/** The two versions of SOAP there are; an answer is of the version its call is of. */
export type SoapVersion = '1.1' | '1.2';

export const ENVELOPE_NAMESPACES: Readonly<Record<SoapVersion, string>> = {
  '1.1': 'http://schemas.xmlsoap.org/soap/envelope/',
  '1.2': 'http://www.w3.org/2003/05/soap-envelope',
};

/** SOAP 1.1, 4.1 (HTTP binding, 6) and SOAP 1.2 Part 2, 7.1.4. */
export const ENVELOPE_TYPES: Readonly<Record<SoapVersion, string>> = {
  '1.1': 'text/xml; charset=utf-8',
  '1.2': 'application/soap+xml; charset=utf-8',
};
