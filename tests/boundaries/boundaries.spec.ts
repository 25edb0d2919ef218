import { afterAll, describe, expect, it } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { ROOT } from '../support/running-server.js';

/*
 * Each rule of .dependency-cruiser.cjs is broken on purpose, in a tree made up for it: a rule that finds nothing there has
 * a hole. And every rule is in the table: a new one without a case fails.
 */

/** A rule → a file that breaks it, and what it imports. */
const BROKEN: Readonly<Record<string, readonly [file: string, imports: string]>> = {
  'no-circular': ['core/src/plan/ring.ts', '../rule/ring.js'],
  core: ['core/src/plan/a.ts', '../../../contract/src/index.js'],
  contract: ['contract/src/a.ts', '../../server/src/main.js'],
  server: ['server/src/a.ts', '../../standins/src/chance.js'],
  standins: ['standins/src/a.ts', '../../server/src/main.js'],
  web: ['web/src/desk/a.ts', '../../../server/src/main.js'],
  'specs-stay-in-their-package': ['core/src/plan/a.spec.ts', '../../../server/src/main.js'],
  'nobody-imports-tests': ['server/src/filing/a.spec.ts', '../../../tests/support/person.js'],
  'tools-stand-alone': ['tools/a.mjs', '../server/src/main.js'],
  'bench-and-journeys-from-outside': ['tests/journeys/a.spec.ts', '../../server/src/main.js'],
  'core-is-pure': ['core/src/plan/a.ts', 'node:fs'],
  'core-libraries': ['core/src/plan/a.ts', 'zod'],
  'room-house': ['server/src/house/a.ts', '../filing/index.js'],
  'room-people': ['server/src/people/a.ts', '../house/house.js'],
  'room-door': ['server/src/door/a.ts', '../filing/index.js'],
  'room-backing': ['server/src/backing/a.ts', '../seeing/index.js'],
  'room-audit': ['server/src/audit/a.ts', '../filing/index.js'],
  'room-driving': ['server/src/driving/a.ts', '../seeing/index.js'],
  'room-seeing': ['server/src/seeing/a.ts', '../filing/index.js'],
  'room-counter': ['server/src/counter/a.ts', '../house/store/cards.js'],
  'room-slip': ['server/src/slip/a.ts', '../filing/index.js'],
  'room-crediting': ['server/src/crediting/a.ts', '../filing/index.js'],
  'room-rules': ['server/src/rules/a.ts', '../filing/index.js'],
  'room-filing': ['server/src/filing/a.ts', '../arriving/index.js'],
  'room-proving': ['server/src/proving/a.ts', '../filing/plan.js'],
  'room-keeping': ['server/src/keeping/a.ts', '../arriving/index.js'],
  'room-clearing': ['server/src/clearing/a.ts', '../arriving/index.js'],
  'room-arriving': ['server/src/arriving/a.ts', '../keeping/index.js'],
  'room-shelf': ['server/src/shelf/a.ts', '../filing/index.js'],
  'room-tending': ['server/src/tending/a.ts', '../arriving/index.js'],
  'room-rebuilding': ['server/src/rebuilding/a.ts', '../arriving/index.js'],
  'below-db': ['server/src/db/a.ts', '../house/index.js'],
  'below-drive': ['server/src/drive/a.ts', '../house/index.js'],
  'below-aside': ['server/src/aside/a.ts', '../house/index.js'],
  'below-paper': ['server/src/paper/a.ts', '../proving/index.js'],
  'below-media': ['server/src/media/a.ts', '../seeing/index.js'],
  'below-live': ['server/src/live/a.ts', '../house/index.js'],
  'below-work': ['server/src/work/a.ts', '../filing/index.js'],
  'below-http': ['server/src/http/a.ts', '../people/index.js'],
  'below-cli': ['server/src/cli/a.ts', '../house/index.js'],
  'rooms-are-wired-above': ['server/src/filing/a.ts', '../composition.js'],
  'specs-look-at-faces': ['server/src/filing/a.spec.ts', '../house/house.js'],
  'tests-look-at-faces': ['tests/faults/a.spec.ts', '../../server/src/filing/plan.js'],
  'sql-in-stores-only': ['server/src/filing/a.ts', 'typeorm'],
  'entities-in-stores-only': ['server/src/filing/a.ts', '../db/entities/filed.js'],
  'stores-do-not-act': ['server/src/filing/store/a.ts', '../../settings.js'],
  'express-in-routes-only': ['server/src/filing/a.ts', 'express'],
  'commander-in-commands-only': ['server/src/filing/a.ts', 'commander'],
  'media-files-through-drive': ['server/src/filing/a.ts', 'node:fs/promises'],
  'web-desk': ['web/src/desk/a.ts', '../people/a'],
  'web-door': ['web/src/door/a.ts', '../people/a'],
  'web-lending': ['web/src/lending/a.ts', '../people/a'],
  'web-logbook': ['web/src/logbook/a.ts', '../people/a'],
  'web-people': ['web/src/people/b.ts', '../desk/b'],
  'web-drive': ['web/src/drive/a.ts', '../people/a'],
  'web-rules': ['web/src/rules/a.ts', '../people/a'],
  'web-hand-in': ['web/src/hand-in/a.ts', '../people/a'],
  'web-intake': ['web/src/intake/a.ts', '../people/a'],
  'web-shelf': ['web/src/shelf/a.ts', '../people/a'],
  'web-below-api': ['web/src/api/a.ts', '../shared/a'],
  'web-below-theme': ['web/src/theme/a.ts', '../shared/a'],
  'web-below-shared': ['web/src/shared/b.ts', '../sheet/a'],
  'web-below-stick': ['web/src/stick/a.ts', '../intake/b'],
  'web-below-sheet': ['web/src/sheet/b.ts', '../intake/b'],
  'web-below-closer': ['web/src/closer/a.ts', '../intake/b'],
};

const tree = mkdtempSync(join(tmpdir(), 'tally-boundaries-'));
afterAll(() => rmSync(tree, { recursive: true, force: true }));

function write(path: string, content: string): void {
  mkdirSync(dirname(join(tree, path)), { recursive: true });
  writeFileSync(join(tree, path), content);
}

interface Found {
  readonly summary: { readonly violations: readonly { readonly rule: { readonly name: string }; readonly from: string }[] };
}

function cruise(): Found['summary']['violations'] {
  const config = join(ROOT, '.dependency-cruiser.cjs');
  const folders = ['core', 'contract', 'server', 'standins', 'web', 'tests', 'bench', 'tools'];
  const bin = join(ROOT, 'node_modules/.bin/depcruise');
  const { stdout, stderr } = spawnSync(bin, ['--config', config, '--output-type', 'json', ...folders], {
    ...{ cwd: tree, encoding: 'utf8', maxBuffer: 1 << 28, env: { ...process.env, NODE_OPTIONS: '' } },
  });
  if (!stdout) throw new Error(stderr);
  return (JSON.parse(stdout) as Found).summary.violations;
}

describe('the boundaries have no holes', () => {
  const rules = createRequire(import.meta.url)(join(ROOT, '.dependency-cruiser.cjs')) as { forbidden: { name: string }[] };

  it('every rule has a case that breaks it', () => {
    expect(rules.forbidden.map(({ name }) => name).sort()).toEqual(Object.keys(BROKEN).sort());
  });

  it('each is found', () => {
    symlinkSync(join(ROOT, 'node_modules'), join(tree, 'node_modules'));
    for (const folder of ['core', 'contract', 'server', 'standins', 'web', 'tests', 'bench', 'tools'])
      mkdirSync(join(tree, folder), { recursive: true });
    const words = new Map<string, string[]>();
    for (const [file, imports] of Object.values(BROKEN)) words.set(file, [...(words.get(file) ?? []), imports]);
    // What is imported has to be there; the ring closes.
    words.set('core/src/rule/ring.ts', ['../plan/ring.js']);
    for (const [file, all] of [...words]) {
      for (const target of all.filter((one) => one.startsWith('.'))) {
        const path = join(dirname(file), target).replace(/\.js$/, '.ts');
        const there = path.endsWith('.ts') ? path : `${path}.ts`;
        if (!words.has(there)) words.set(there, []);
      }
    }
    for (const [file, all] of words)
      write(
        file,
        `${all.map((one, n) => `import * as a${n} from '${one}';\nconsole.log(a${n});\n`).join('')}export const name = 1;\n`,
      );
    const found = cruise();
    const missed = Object.entries(BROKEN).filter(
      ([rule, [file]]) => !found.some((one) => one.rule.name === rule && one.from === file),
    );
    expect(missed).toEqual([]);
  });
});
