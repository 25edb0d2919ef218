// What plain Node offers without an import, for the linter.
export default Object.fromEntries(
  ['console', 'process', 'URL', 'fetch', 'setTimeout', 'clearTimeout', 'Buffer', 'AbortSignal', 'performance'].map((name) => [
    name,
    'readonly',
  ]),
);
