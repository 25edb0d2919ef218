import { expect, it } from '@jest/globals';
import { join } from 'node:path';
import { FIXTURES } from '../../server/src/testing/cards.js';
import { tool } from '../../server/src/testing/tools.js';
import { ROOT } from '../support/running-server.js';

type Score = Record<'date' | 'offset' | 'make' | 'model' | 'size', { same: number; wrong: unknown[] }> & { files: number };

// Source: Debian's exiftool (libimage-exiftool-perl 12.57), run over the same files in the same test.
it('capture times, cameras and sizes of real files equal what exiftool reads', () => {
  const score = JSON.parse(tool(process.execPath, join(ROOT, 'tools/check-reference.mjs'), FIXTURES, '--json')) as Score;
  expect(score.files).toBeGreaterThan(120);
  for (const field of ['date', 'make', 'model', 'size'] as const) {
    expect({ field, wrong: score[field].wrong }).toEqual({ field, wrong: [] });
    expect(score[field].same).toBeGreaterThan(90);
  }
});
