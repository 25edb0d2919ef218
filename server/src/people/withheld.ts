import { withholding } from '@tally/core/rights';
import type { House } from '../house/index.js';
import { withheld } from './store/withheld.js';

/** How texts are said to whoever may not see persons, as the lists stand now. */
export const withheldNames = async ({ db }: Pick<House, 'db'>): Promise<(text: string) => string> =>
  withholding(await withheld(db));
