import { withNarrower } from '../words/index.js';

/** A bundle and every bundle that stands in it, however far inside. It may stand in none of these itself. */
export const withInner = (bundles: readonly { readonly id: number; readonly parent: number | null }[], id: number): Set<number> =>
  withNarrower(
    bundles.map(({ id: one, parent }) => ({ id: one, broader: parent === null ? [] : [parent] })),
    id,
  );
