import express from 'express';

/** Half of a character beyond U+FFFF without its other half; with the flag `u` whole ones do not match. */
const LONE_SURROGATE = /\p{Surrogate}/u;

/**
 * Reads JSON bodies up to a size (`2mb`). What is no text in any encoding, half of a pair of surrogates, is refused
 * wherever it stands (RFC 7493, I-JSON, section 2.1): JSON can say it, and no column can keep it.
 */
export const jsonBody = (limit: string) =>
  express.json({
    limit,
    reviver: (key: string, value: unknown) => {
      if (LONE_SURROGATE.test(key) || (typeof value === 'string' && LONE_SURROGATE.test(value)))
        throw new Error('This request holds half of a character');
      return value;
    },
  });
