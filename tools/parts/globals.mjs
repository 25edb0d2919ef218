// What plain Node offers without an import, for the linter.
export default Object.fromEntries(
  [
    'console',
    'process',
    'URL',
    'fetch',
    'AbortController',
    'setTimeout',
    'clearTimeout',
    'Buffer',
    'AbortSignal',
    'performance',
  ].map((name) => [name, 'readonly']),
);
