// What a run of the tests says at its end: which cases were slowest, and what was left out and why.
import { readFileSync } from 'node:fs';

/** @typedef {{ name: string, seconds: number, leftOut: string | null, failed: boolean }} Case */

/** Why a block was left out stands in its name: "cards on exFAT (left out: only root may mount)". */
const REASON = /\(left out: (.+?)\)(?: |$)/;

/** Cases of Jest's report. */
export function casesOfJest(file) {
  const { testResults } = JSON.parse(readFileSync(file, 'utf8'));
  return testResults.flatMap(({ assertionResults }) =>
    assertionResults.map(({ fullName, duration, status }) => ({
      name: fullName,
      seconds: (duration ?? 0) / 1000,
      leftOut: status === 'pending' ? (REASON.exec(fullName)?.[1] ?? 'nobody says why') : null,
      failed: status === 'failed',
    })),
  );
}

/** Cases of Playwright's report; what a journey says of itself that it could not do stands in an annotation. */
export function casesOfJourneys(file) {
  const of = ({ specs = [], suites = [], title }, above) => [
    ...specs.flatMap((spec) =>
      spec.tests.map(({ results, status, annotations }) => ({
        name: `${above || title}: ${spec.title}`,
        seconds: results.reduce((sum, { duration }) => sum + duration, 0) / 1000,
        leftOut: annotations.find(({ type }) => type === 'left out')?.description ?? null,
        failed: status === 'unexpected',
      })),
    ),
    ...suites.flatMap((suite) => of(suite, above || title)),
  ];
  return JSON.parse(readFileSync(file, 'utf8')).suites.flatMap((suite) => of(suite, ''));
}

/** The slowest, a line each. */
export function slowest(cases, count = 20) {
  const lines = [...cases]
    .sort((a, b) => b.seconds - a.seconds)
    .slice(0, count)
    .map(({ seconds, name }) => `${seconds.toFixed(1).padStart(6)} s  ${name}`);
  return lines.length ? ['The slowest cases:', ...lines].join('\n') : '';
}

/** What was not tried on this machine, a line for each reason; '' when everything was. */
export function leftOut(cases) {
  const reasons = new Map();
  for (const { leftOut: why } of cases) if (why) reasons.set(why, (reasons.get(why) ?? 0) + 1);
  return [...reasons].map(([why, count]) => `left out, ${count} ${count === 1 ? 'case' : 'cases'}: ${why}`).join('\n');
}
