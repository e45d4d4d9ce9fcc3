/** Headers whose whole value (but for a scheme) is a secret, and cookies, whose values are. */
const SECRET_HEADER =
  /^(authorization|proxy-authorization|cookie|set-cookie|(x-)?(.*[_-])?(api[_-]?key|key|token|secret|session|auth|signature|password))$/i;

/** Names of members, fields and parameters that hold secrets, whichever way they are written: accessToken, access_token. */
const SECRET_NAME =
  /^(.*[_-])?(password|passwd|passphrase|secret|token|api[_-]?key|private[_-]?key|signature|credentials?|session[_-]?(id|key)|pin|cvv|cvc|card[_-]?number|iban|otp)$|(Password|Secret|Token|ApiKey|PrivateKey|Signature|SessionId|SessionKey|CardNumber)$/i;

export interface SecretWords {
  readonly isSecretHeader: (name: string) => boolean;
  readonly isSecretName: (name: string) => boolean;
}

/** What counts as a secret by its name; `more`: names the user adds, in any case. */
export function createSecretWords(more: readonly string[] = []): SecretWords {
  const own = new Set(more.map((name) => name.toLowerCase()));
  return {
    isSecretHeader: (name) => SECRET_HEADER.test(name) || own.has(name.toLowerCase()),
    isSecretName: (name) => SECRET_NAME.test(name) || own.has(name.toLowerCase()),
  };
}

const JWT = /^eyJ[\w-]{8,}\.[\w-]{8,}\.[\w-]*$/;
const BEARER = /^Bearer\s+\S{8,}$/i;
const CARD = /^\d(?:[ -]?\d){12,18}$/;

/** A value that is a secret by its shape alone: a JWT, a bearer credential, a number like a payment card's. */
export function isSecretShape(value: string): boolean {
  return JWT.test(value) || BEARER.test(value) || (CARD.test(value) && passesLuhn(value.replaceAll(/\D/g, '')));
}

/** The check digit of payment cards (ISO/IEC 7812-1, annex B). */
function passesLuhn(digits: string): boolean {
  let sum = 0;
  for (let i = 0; i < digits.length; i++) {
    const digit = Number(digits[digits.length - 1 - i]);
    const weighted = i % 2 === 0 ? digit : digit * 2;
    sum += weighted > 9 ? weighted - 9 : weighted;
  }
  return sum % 10 === 0;
}
