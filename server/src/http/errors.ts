import type { ErrorRequestHandler, RequestHandler } from 'express';
import type { z } from 'zod';
import type { ErrorBody } from '@plundra/contract';
import { asStorageProblem, Problem } from '../store/index.ts';

export const unknownPath: RequestHandler = (request, _response, next) => {
  next(new Problem(404, 'unknown_path', `There is nothing at ${request.path}.`));
};

/** Every error leaves in the one shape; what is unforeseen is told in the log, not to the page. */
export const answerError: ErrorRequestHandler = (raw, _request, response, next) => {
  if (response.headersSent) return next(raw);
  const error = asStorageProblem(raw);
  const problem = error instanceof Problem ? error : fromParser(error);
  if (problem.status >= 500 && !(error instanceof Problem)) console.error(error);
  const body: ErrorBody = {
    error: {
      code: problem.code,
      message: problem.message,
      ...(problem.details !== undefined && { details: problem.details }),
    },
  };
  response.status(problem.status).json(body);
};

function fromParser(error: unknown): Problem {
  const type = (error as { type?: string }).type;
  if (type === 'entity.too.large')
    return new Problem(
      413,
      'too_large',
      'This change is too large to be saved in one piece. Do it in smaller steps.',
    );
  if (type === 'entity.parse.failed')
    return new Problem(400, 'bad_request', 'The request is not valid JSON.');
  if (
    type === 'request.aborted' ||
    (error as { code?: string }).code === 'ECONNRESET' ||
    (error as { code?: string }).code === 'ERR_STREAM_PREMATURE_CLOSE'
  ) {
    return new Problem(
      400,
      'aborted',
      'The upload broke off before its end, so nothing was kept of it. Choose the file again.',
    );
  }
  return new Problem(
    500,
    'unexpected',
    'Something unexpected went wrong in the server. What was saved is unharmed; try again.',
  );
}

/** Checks a request body; throws a {@link Problem} that names the first fault. */
export function parseBody<T>(schema: z.ZodType<T>, body: unknown): T {
  const result = schema.safeParse(body);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new Problem(
    400,
    'bad_request',
    `The request is not in the expected form: ${issue.path.join('.') || 'body'}: ${issue.message}`,
  );
}
