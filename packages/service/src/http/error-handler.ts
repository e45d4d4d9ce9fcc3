import { AppError, ERROR_TABLE, type ErrorCode } from '@upsetter/core';
import type { Problem } from '@upsetter/core/wire';
import type { FastifyError, FastifyReply, FastifyRequest } from 'fastify';
import { hasZodFastifySchemaValidationErrors } from 'fastify-type-provider-zod';

/** The one mapping of the control API: any error to a Problem Details document (RFC 9457) with its stable code. */
export function handleError(error: unknown, request: FastifyRequest, reply: FastifyReply): void {
  const problem = toProblem(error);
  if (problem.status >= 500 && problem.code === 'internal') request.log.error(error);
  void reply.code(problem.status).type('application/problem+json').send(problem);
}

function toProblem(error: unknown): Problem {
  if (error instanceof AppError) return buildProblem(error.code, error.message, error.details);
  if (hasZodFastifySchemaValidationErrors(error)) {
    const reasons = error.validation.map(({ instancePath, message }) =>
      // At the root, the message says enough.
      instancePath === '/' || instancePath === ''
        ? (message ?? '')
        : `${error.validationContext ?? ''}${instancePath.replaceAll('/', '.')}: ${message ?? ''}`,
    );
    return buildProblem('request-refused', reasons.join('; '));
  }
  const { statusCode, message, code } = error as FastifyError;
  if (code === 'FST_ERR_CTP_BODY_TOO_LARGE')
    return buildProblem('too-large', 'the request is larger than the control API takes (16 MB)');
  if (statusCode !== undefined && statusCode < 500) return buildProblem('request-refused', message);
  return buildProblem('internal', 'the log says more');
}

export function buildProblem(code: ErrorCode, detail: string, details: object = {}): Problem {
  const { status, title, next } = ERROR_TABLE[code];
  return { type: `urn:upsetter:problem:${code}`, title, status, code, detail, next, ...details };
}
