import type { RequestHandler } from 'express';
import { personOf } from './guard.js';

/** What takes lists or originals out of the house. */
const LEAVES = [
  /^\/shelf\/(fetch\.zip|list\.(csv|tsv))$/,
  /^\/figures\.csv$/,
  /^\/intakes\/export\.(csv|tsv)$/,
  /^\/items\/\d+\/(file|original)$/,
  /^\/(export\/[a-z]+|words\/export\.ttl|audit\.csv)$/,
];

/** Tells of what leaves the house, before it does. @param told who took what */
export function tellOfExports(told: (who: string, what: string) => Promise<void>): RequestHandler {
  return async (request, response, next) => {
    if (request.method === 'GET' && LEAVES.some((one) => one.test(request.path)))
      await told(personOf(response).name, request.originalUrl.replace(/^\/api\//, '').slice(0, 500));
    next();
  };
}
