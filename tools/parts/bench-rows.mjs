// Rows of the bench: whether a target is met, how they are kept, and two runs beside each other. No input or output.

/** @param row { what, ratio, target, atLeast, seconds } @returns the row with `met` */
export const verdict = (row) => ({ ...row, met: row.atLeast ? row.ratio >= row.target : row.ratio <= row.target });

/**
 * A kept run: rows by name, each with the day it was measured. Those of benches that were not run this time stay; a row that
 * its bench no longer gives goes.
 */
export function kept(before, rows, at = new Date().toISOString()) {
  const run = new Set(rows.map(({ bench }) => bench));
  const stay = Object.entries(before.rows ?? {}).filter(([, { bench }]) => bench && !run.has(bench));
  return { at, rows: Object.fromEntries([...stay, ...rows.map(({ what, ...row }) => [what, { ...row, at }])]) };
}

/** Two kept runs as a table: figure of each and what the second is of the first; rows that only one has say so. */
export function compared(a, b) {
  const names = [...new Set([...Object.keys(a.rows ?? {}), ...Object.keys(b.rows ?? {})])];
  const figure = (row) => (row ? row.ratio.toFixed(2) : '-').padStart(8);
  const lines = names.map((name) => {
    const [one, other] = [a.rows?.[name], b.rows?.[name]];
    const times = one && other && one.ratio ? `× ${(other.ratio / one.ratio).toFixed(2)}` : '';
    return `${figure(one)}  ${figure(other)}  ${times.padStart(8)}  ${name}`;
  });
  return [`       A         B            of ${a.at} and ${b.at}`, ...lines].join('\n');
}
