import type { ErrorRequestHandler, Request, RequestHandler } from 'express';
import type { z } from 'zod';
import { FILE_NAME_HEADER, type ErrorBody } from '@plundra/contract';
import type { FaultRecord } from '../care/faults.ts';
import { asStorageProblem, Problem } from '../store/index.ts';

export const unknownPath: RequestHandler = (request, _response, next) => {
  next(new Problem(404, 'unknown_path', `There is nothing at ${request.path}.`));
};

/** Every error leaves in the one shape; what is unforeseen is told in the log and the record of faults, not to the page. */
export const answerError =
  (faults: FaultRecord): ErrorRequestHandler =>
  (raw, request, response, next) => {
    if (response.headersSent) return next(raw);
    const error = asStorageProblem(raw);
    const problem = problemOf(error);
    if (problem.status >= 500 && !(error instanceof Problem)) {
      console.error(error);
      faults.add(`${request.method} ${String(request.route?.path ?? 'unknown path')}`, error);
    }
    const body: ErrorBody = {
      error: {
        code: problem.code,
        message: problem.message,
        ...(problem.details !== undefined && { details: problem.details }),
      },
    };
    response.status(problem.status).json(body);
  };

function problemOf(error: unknown): Problem {
  if (error instanceof Problem) return error;
  const { type, code, status } = error as { type?: string; code?: string; status?: number };
  if (type === 'entity.too.large')
    return new Problem(
      413,
      'too_large',
      'This change is too large to be saved in one piece. Do it in smaller steps.',
    );
  if (type === 'entity.parse.failed')
    return new Problem(400, 'bad_request', 'The request is not valid JSON.');
  if (type === 'request.aborted' || code === 'ECONNRESET' || code === 'ERR_STREAM_PREMATURE_CLOSE') {
    return new Problem(
      400,
      'aborted',
      'The upload broke off before its end, so nothing was kept of it. Choose the file again.',
    );
  }
  if (status === 404 || code === 'ENOENT')
    return new Problem(404, 'not_found', 'There is nothing here any more.');
  if (status === 416)
    return new Problem(416, 'range', 'The file ends before the part of it that was asked for.');
  // Errors of the framework for malformed requests: paths, names, encodings.
  if (error instanceof URIError || (status !== undefined && status >= 400 && status < 500))
    return new Problem(status ?? 400, 'bad_request', 'The request is not in a form that can be read.');
  return new Problem(
    500,
    'unexpected',
    'Something unexpected went wrong in the server. What was saved is unharmed; try again.',
  );
}

/** The name of a file that comes with it, percent-encoded. */
export function fileNameOf(request: Request, otherwise: string): string {
  try {
    return (
      decodeURIComponent(String(request.headers[FILE_NAME_HEADER] ?? otherwise)).slice(0, 200) || otherwise
    );
  } catch {
    throw new Problem(400, 'bad_request', 'The name of the file is not coded in a way that can be read.');
  }
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
