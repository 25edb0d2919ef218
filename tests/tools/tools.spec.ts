import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { ROOT } from '../support/running-server.js';

/* What the tools themselves compute: how specs are dealt out, what a run says at its end, how rows of the bench are kept. */

const load = async <T>(path: string): Promise<T> => (await import(pathToFileURL(join(ROOT, path)).href)) as T;

const folder = mkdtempSync(join(tmpdir(), 'tally-tools-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const fileOf = (name: string, content: unknown): string => {
  const path = join(folder, name);
  writeFileSync(path, JSON.stringify(content));
  return path;
};

describe('a spec as a block among others', () => {
  interface Blocks {
    asBlock(source: string, path: string, root: string): string;
  }
  const asBlock = async (source: string) =>
    (await load<Blocks>('tests/support/jest/in-one-file.mjs')).asBlock(source, '/house/src/filing/lanes.spec.ts', '/house');

  it('keeps its imports above, everything else inside, and every line where it is', async () => {
    const source = `import { it } from '@jest/globals';\n\n/** Said once. */\nconst two = 2;\nit('adds', () => two);\n`;
    const block = await asBlock(source);
    expect(
      block
        .split('\n')
        .slice(0, 5)
        .map((line) => line.replace(/;describe\(.*\{/, '')),
    ).toEqual(source.split('\n').slice(0, 5));
    expect(block).toContain(`describe("src/filing/lanes.spec.ts", () => {`);
    expect(block.trimEnd().endsWith('});')).toBe(true);
    expect(block.indexOf('import')).toBeLessThan(block.indexOf('describe'));
    expect(block.indexOf('describe')).toBeLessThan(block.indexOf('const two'));
  });

  it('is refused where something is imported or exported below', async () => {
    await expect(asBlock(`const a = 1;\nimport { it } from '@jest/globals';\nit('x', () => a);`)).rejects.toThrow(
      'lanes.spec.ts',
    );
    await expect(asBlock(`const a = 1;\nexport { a };`)).rejects.toThrow('lanes.spec.ts');
  });
});

describe('suites', () => {
  interface Suites {
    dealt(
      specs: readonly { path: string; lines: number }[],
      suites: number,
      seed: number | null,
    ): { lines: number; paths: string[] }[];
    suitesOf(name: string): string;
  }
  const specs = Array.from({ length: 40 }, (_, n) => ({ path: `spec-${n}`, lines: 20 + ((n * 37) % 300) }));

  it.each([null, 7, 8])('hold every spec once, about as much each (seed %s)', async (seed) => {
    const all = (await load<Suites>('tools/parts/suites.mjs')).dealt(specs, 6, seed);
    expect(all.flatMap(({ paths }) => paths).sort()).toEqual(specs.map(({ path }) => path).sort());
    const lines = all.map((one) => one.lines);
    expect(Math.max(...lines)).toBeLessThan(2 * Math.min(...lines));
  });

  it('are the same for the same seed, and others for another', async () => {
    const { dealt } = await load<Suites>('tools/parts/suites.mjs');
    expect(dealt(specs, 6, 7)).toEqual(dealt(specs, 6, 7));
    expect(dealt(specs, 6, 7)).not.toEqual(dealt(specs, 6, 8));
  });
});

describe('what a run says at its end', () => {
  interface Case {
    readonly name: string;
    readonly seconds: number;
    readonly leftOut: string | null;
    readonly failed: boolean;
  }
  interface Report {
    casesOfJest(file: string): Case[];
    casesOfJourneys(file: string): Case[];
    slowest(cases: readonly Case[], count?: number): string;
    leftOut(cases: readonly Case[]): string;
  }
  const report = () => load<Report>('tools/parts/report.mjs');

  it('names the slowest first, and each reason why something was left out once', async () => {
    const { casesOfJest, slowest, leftOut } = await report();
    const why = 'cards on exFAT (left out: only root may mount) a card';
    const cases = casesOfJest(
      fileOf('jest.json', {
        testResults: [
          {
            assertionResults: [
              { fullName: 'quick', duration: 20, status: 'passed' },
              { fullName: 'slow', duration: 4_000, status: 'failed' },
              { fullName: `${why} is read`, status: 'pending' },
              { fullName: `${why} is cleared`, status: 'pending' },
            ],
          },
        ],
      }),
    );
    expect(slowest(cases, 2).split('\n')).toEqual(['The slowest cases:', '   4.0 s  slow', '   0.0 s  quick']);
    expect(leftOut(cases)).toBe('left out, 2 cases: only root may mount');
    expect(cases.filter(({ failed }) => failed).map(({ name }) => name)).toEqual(['slow']);
  });

  it('reads journeys too, with what they say of themselves', async () => {
    const { casesOfJourneys, leftOut } = await report();
    const spec = (title: string, status: string, annotations: object[] = []) => ({
      title,
      tests: [{ status, annotations, results: [{ duration: 1_500 }] }],
    });
    const cases = casesOfJourneys(
      fileOf('journeys.json', {
        suites: [
          {
            title: 'cards.spec.ts',
            specs: [spec('a card', 'expected')],
            suites: [
              { title: 'inside', specs: [spec('another', 'unexpected', [{ type: 'left out', description: 'no namespaces' }])] },
            ],
          },
        ],
      }),
    );
    expect(cases.map(({ name, seconds, failed }) => [name, seconds, failed])).toEqual([
      ['cards.spec.ts: a card', 1.5, false],
      ['cards.spec.ts: another', 1.5, true],
    ]);
    expect(leftOut(cases)).toBe('left out, 1 case: no namespaces');
  });

  it('says nothing of what was all tried', async () => expect((await report()).leftOut([])).toBe(''));
});

describe('what this machine knows of the same sources', () => {
  interface Known {
    hashOf(root: string, paths: readonly string[]): string;
    takeKnown(kind: string, hash: string, to: string): boolean;
    keepKnown(kind: string, hash: string, from: string): void;
    hasPassed(check: string, hash: string): boolean;
    passes(check: string, hash: string): void;
  }
  const before = process.env['XDG_CACHE_HOME'];
  beforeAll(() => {
    process.env['XDG_CACHE_HOME'] = join(folder, 'cache');
  });
  afterAll(() => {
    if (before === undefined) delete process.env['XDG_CACHE_HOME'];
    else process.env['XDG_CACHE_HOME'] = before;
  });
  const known = () => load<Known>('tools/parts/known.mjs');
  const sources = join(folder, 'sources');

  it('is another thing when a file is, wherever it stands, and not when something is that is made of them', async () => {
    const { hashOf } = await known();
    mkdirSync(join(sources, 'server/src'), { recursive: true });
    mkdirSync(join(sources, 'server/dist'));
    writeFileSync(join(sources, 'server/src/a.ts'), 'one');
    const first = hashOf(sources, ['.']);
    writeFileSync(join(sources, 'server/dist/a.js'), 'made');
    expect(hashOf(sources, ['.'])).toBe(first);
    writeFileSync(join(sources, 'server/src/a.ts'), 'two');
    const second = hashOf(sources, ['.']);
    renameSync(join(sources, 'server/src/a.ts'), join(sources, 'server/src/b.ts'));
    expect(new Set([first, second, hashOf(sources, ['.'])]).size).toBe(3);
  });

  it('is copied where it is known, and kept for the newest few', async () => {
    const { takeKnown, keepKnown } = await known();
    const to = join(folder, 'copied');
    expect(takeKnown('interface', 'h0', to)).toBe(false);
    for (let n = 0; n < 6; n++) {
      keepKnown('interface', `h${n}`, sources);
      utimesSync(join(folder, 'cache/tally-stick/interface', `h${n}`), n, n);
    }
    // Kept by another just now: that is as good.
    keepKnown('interface', 'h5', sources);
    expect(takeKnown('interface', 'h5', to)).toBe(true);
    expect(readFileSync(join(to, 'server/src/b.ts'), 'utf8')).toBe('two');
    expect(takeKnown('interface', 'h0', to)).toBe(false);
    expect(readdirSync(join(folder, 'cache/tally-stick/interface')).every((name) => !name.startsWith('.half'))).toBe(true);
  });

  it('has passed only what has', async () => {
    const { hasPassed, passes } = await known();
    passes('format', 'abc');
    expect([hasPassed('format', 'abc'), hasPassed('source', 'abc'), hasPassed('format', 'abd')]).toEqual([true, false, false]);
  });
});

describe('rows of the bench', () => {
  interface Row {
    readonly what: string;
    readonly bench: string;
    readonly ratio: number;
    readonly target: number;
    readonly atLeast?: boolean;
  }
  interface Kept {
    readonly at: string;
    readonly rows: Readonly<Record<string, Omit<Row, 'what'> & { readonly at: string }>>;
  }
  interface Rows {
    verdict(row: Row): Row & { readonly met: boolean };
    kept(before: Partial<Kept>, rows: readonly Row[], at?: string): Kept;
    compared(a: Partial<Kept>, b: Partial<Kept>): string;
  }
  const rows = () => load<Rows>('tools/parts/bench-rows.mjs');
  const row = (bench: string, what: string, ratio: number, more: Partial<Row> = {}): Row => ({
    bench,
    what,
    ratio,
    target: 1,
    ...more,
  });

  it('meet a target from below, or from above where it says so', async () => {
    const { verdict } = await rows();
    expect(verdict(row('a', 'x', 0.9)).met).toBe(true);
    expect(verdict(row('a', 'x', 1.1)).met).toBe(false);
    expect(verdict(row('a', 'x', 1.1, { atLeast: true })).met).toBe(true);
  });

  it('stay by name until their bench is run again, and go when it gives them no longer', async () => {
    const { kept } = await rows();
    const first = kept(
      {},
      [row('filing', 'small files', 1), row('filing', 'large files', 2), row('shelf', 'a word', 3)],
      'monday',
    );
    const then = kept(first, [row('filing', 'small files', 0.5)], 'tuesday');
    expect(Object.entries(then.rows).map(([name, { ratio, at }]) => [name, ratio, at])).toEqual([
      ['a word', 3, 'monday'],
      ['small files', 0.5, 'tuesday'],
    ]);
  });

  it('of two runs stand beside each other, those of one alone too', async () => {
    const { kept, compared } = await rows();
    const a = kept({}, [row('filing', 'small files', 2), row('shelf', 'a word', 3)], 'monday');
    const b = kept({}, [row('filing', 'small files', 1), row('drive', 'a level', 4)], 'tuesday');
    const lines = compared(a, b)
      .split('\n')
      .slice(1)
      .map((line) => line.trim().split(/\s{2,}/));
    expect(lines).toEqual([
      ['2.00', '1.00', '× 0.50', 'small files'],
      ['3.00', '-', 'a word'],
      ['-', '4.00', 'a level'],
    ]);
    expect(compared({}, {})).toContain('A');
  });

  it('every bench is in a file of its name and is known to the command', () => {
    const named = [...readFileSync(join(ROOT, 'tools/bench.mjs'), 'utf8').matchAll(/^ {2}(\w+): '(server|interface)',$/gm)].map(
      ([, name]) => name,
    );
    const parts = ['measure.mjs', 'rss.mjs'];
    const files = readdirSync(join(ROOT, 'bench')).filter((name) => name.endsWith('.mjs') && !parts.includes(name));
    expect(files.sort()).toEqual(named.map((name) => `${name}.mjs`).sort());
  });
});
