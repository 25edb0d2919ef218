import type { Problem } from '@tally/contract';
import type { ErrorRequestHandler, Response } from 'express';
import type { Logger } from 'pino';
import { ZodError } from 'zod';

/** What PostgreSQL says of transactions that got into each other more often than they are tried (manual, appendix A). */
const IN_EACH_OTHERS_WAY = new Set(['40001', '40P01', '55P03', '57014', '25P03']);

/** What PostgreSQL says of records that do not fit (foreign key and unique violations). */
const NOT_AS_SAID: Readonly<Record<string, string>> = {
  '23503': 'Something that this speaks of is not there, or not any more. Look again, then say what you want.',
  '23505': 'Somebody else has just said the same. Look again.',
};

/** Answers with problem details (RFC 9457, media type application/problem+json). */
export function sendProblem(response: Response, status: number, title: string, more: Partial<Problem> = {}): void {
  const problem: Problem = { type: 'about:blank', title, status, ...more };
  response.status(status).type('application/problem+json').send(JSON.stringify(problem));
}

/** Turns whatever a route throws into a problem. What is not meant for people stays in the log. */
export function problems(log: Logger): ErrorRequestHandler {
  return (error: unknown, request, response, next) => {
    if (response.headersSent) {
      next(error);
      return;
    }
    if (error instanceof ZodError) {
      const faults = error.issues.map((issue) => ({ where: issue.path.join('.') || 'request', what: issue.message }));
      const detail = faults.map((fault) => `${fault.where} ${fault.what}`).join('; ');
      sendProblem(response, 400, 'This request is not valid', { detail, faults });
      return;
    }
    // What says of itself that its words may be shown (`expose`, as http-errors has it) is an answer, not a failure.
    const { status, expose } = error as { status?: unknown; expose?: unknown };
    if (typeof status === 'number' && (expose === true || (status >= 400 && status < 500))) {
      sendProblem(response, status, (error as Error).message);
      return;
    }
    log.error(
      { method: request.method, path: request.path, error: (error as Error).message, stack: (error as Error).stack },
      'request failed',
    );
    if (IN_EACH_OTHERS_WAY.has((error as { code?: string }).code ?? '')) {
      sendProblem(response, 503, 'Others are changing the same thing. Nothing was changed; try again in a moment.');
      return;
    }
    const said = NOT_AS_SAID[(error as { code?: string }).code ?? ''];
    if (said) {
      sendProblem(response, 409, said);
      return;
    }
    const away = /ECONNREFUSED|terminat|Connection|shutting down|starting up/i.test((error as Error).message);
    if (away) {
      sendProblem(response, 503, 'The database does not answer. Nothing is lost; try again in a moment.');
      return;
    }
    sendProblem(response, 500, 'Something went wrong here. It is in the log.');
  };
}
