/** What a place is to the house. */
export const PLACE_KINDS = ['shared drive', 'second copy', 'off-site copy', 'archive'] as const;
