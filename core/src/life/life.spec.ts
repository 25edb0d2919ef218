import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { INTAKE_STATES } from '../copies/index.js';
import { TRAYS } from '../trays/index.js';
import { becomes, TABLE, type Happening, type Life } from './index.js';

const BORN: Life = { state: 'open', tray: 'in', present: true, wish: null, letGo: null };

/** Everything that can happen, with every figure that makes a difference. */
const HAPPENINGS: readonly Happening[] = [
  ...[true, false].map((unfinished): Happening => ({ what: 'put in', unfinished })),
  ...(
    [
      'pulled',
      'letting go',
      'not let go',
      'let go',
      'more came',
      'said',
      'begun',
      'tried again',
      'cleared',
      'done with',
      'adopted',
      'not given back',
    ] as const
  ).map((what): Happening => ({
    what,
  })),
  ...(['pause', 'stop', null] as const).map((wish): Happening => ({ what: 'wished', wish })),
  ...[true, false].map((whole): Happening => ({ what: 'settled', whole })),
  ...[true, false].map((kept): Happening => ({ what: 'stopped', kept })),
  ...[true, false].flatMap((whole) => [true, false].map((filed): Happening => ({ what: 'set aside', whole, filed }))),
  ...TRAYS.flatMap((to) =>
    [0, 3].flatMap((taken) => [0, 2].map((comparing): Happening => ({ what: 'moved', to, taken, comparing }))),
  ),
];
const happening = fc.constantFrom(...HAPPENINGS);
const state = fc.constantFrom(...INTAKE_STATES);
const run = (life: Life, happenings: readonly Happening[]): Life =>
  happenings.reduce((now, next) => {
    const outcome = becomes(now, next);
    return outcome.ok ? outcome.life : now;
  }, life);

/** Every life that can be reached from a new one: there are few, so all of them are looked at. */
function reachable(): Map<string, Life> {
  const known = new Map([[JSON.stringify(BORN), BORN]]);
  for (const life of known.values()) {
    for (const next of HAPPENINGS) {
      const outcome = becomes(life, next);
      if (outcome.ok) known.set(JSON.stringify(outcome.life), outcome.life);
    }
  }
  return known;
}

describe('the life of an intake', () => {
  it('every sequence of happenings, from every state, ends in a state that the table allows at each step', () => {
    fc.assert(
      fc.property(
        state,
        fc.constantFrom(...TRAYS),
        fc.boolean(),
        fc.array(happening, { maxLength: 40 }),
        (from, tray, present, all) => {
          let life: Life = { state: from, tray, present, wish: null, letGo: null };
          for (const next of all) {
            const outcome = becomes(life, next);
            if (!outcome.ok) {
              expect(outcome.why).toMatch(/\.$/);
              continue;
            }
            expect(TABLE[next.what][life.state]).toContain(outcome.life.state);
            life = outcome.life;
          }
        },
      ),
      { numRuns: 3000 },
    );
  });

  it('what is refused changes nothing, and the same happening always does the same', () => {
    fc.assert(
      fc.property(fc.array(happening, { maxLength: 30 }), happening, (before, next) => {
        const life = run(BORN, before);
        expect(becomes(life, next)).toEqual(becomes(life, next));
      }),
    );
  });

  it('whatever is filed, or waits for somebody, lies on the desk; a wish is about a filing and nothing else', () => {
    for (const { state: now, tray, wish } of reachable().values()) {
      if (now === 'filing' || now === 'needs attention') expect(tray).toBe('on the desk');
      if (wish !== null) expect(now).toBe('filing');
    }
  });

  it('every state and every tray is reached', () => {
    const lives = [...reachable().values()];
    expect(new Set(lives.map((life) => life.state))).toEqual(new Set(INTAKE_STATES));
    expect(new Set(lives.map((life) => life.tray))).toEqual(new Set(TRAYS));
  });

  it('every entry of the table happens somewhere: none is dead', () => {
    const seen = new Set<string>();
    for (const life of reachable().values()) {
      for (const next of HAPPENINGS) {
        const outcome = becomes(life, next);
        if (outcome.ok) seen.add(`${next.what}: ${life.state} to ${outcome.life.state}`);
      }
    }
    const said = Object.entries(TABLE).flatMap(([what, states]) =>
      Object.entries(states).flatMap(([from, to]) => to.map((one) => `${what}: ${from} to ${one}`)),
    );
    expect([...seen].sort()).toEqual(said.sort());
  });

  it('nothing is stuck: from wherever an intake gets, its card can be given back', () => {
    const lives = reachable();
    const home = new Set([...lives].flatMap(([key, life]) => (life.tray === 'out' ? [key] : [])));
    // Backwards from what is out, until nothing is added.
    for (let grown = true; grown;) {
      grown = false;
      for (const [key, life] of lives) {
        if (home.has(key)) continue;
        const leads = HAPPENINGS.some((next) => {
          const outcome = becomes(life, next);
          return outcome.ok && home.has(JSON.stringify(outcome.life));
        });
        if (leads) {
          home.add(key);
          grown = true;
        }
      }
    }
    expect([...lives.keys()].filter((key) => !home.has(key))).toEqual([]);
  });

  it.each([
    [
      'filed and given back',
      [
        { what: 'said' },
        { what: 'begun' },
        { what: 'settled', whole: true },
        { what: 'moved', to: 'out', taken: 0, comparing: 0 },
      ],
      'closed',
      'out',
    ],
    [
      'pulled in the middle and put back',
      [{ what: 'begun' }, { what: 'pulled' }, { what: 'settled', whole: false }, { what: 'put in', unfinished: true }],
      'filing',
      'on the desk',
    ],
    [
      'given back, and here again as it was',
      [
        { what: 'begun' },
        { what: 'settled', whole: true },
        { what: 'moved', to: 'out', taken: 0, comparing: 0 },
        { what: 'put in', unfinished: false },
      ],
      'closed',
      'to give back',
    ],
    [
      'more arrived in a folder that was filed',
      [{ what: 'begun' }, { what: 'settled', whole: true }, { what: 'more came' }],
      'open',
      'in',
    ],
    [
      'stopped half way',
      [{ what: 'begun' }, { what: 'wished', wish: 'stop' }, { what: 'stopped', kept: true }],
      'needs attention',
      'on the desk',
    ],
    [
      'all that could not be read set aside: what is left tallies',
      [{ what: 'begun' }, { what: 'settled', whole: false }, { what: 'set aside', whole: true, filed: true }],
      'tallied',
      'to give back',
    ],
    [
      'nothing could be read, and all of it set aside',
      [{ what: 'begun' }, { what: 'settled', whole: false }, { what: 'set aside', whole: true, filed: false }],
      'open',
      'on the desk',
    ],
    [
      'given back by mistake, and said so',
      [
        { what: 'begun' },
        { what: 'settled', whole: true },
        { what: 'moved', to: 'out', taken: 0, comparing: 0 },
        { what: 'not given back' },
      ],
      'tallied',
      'to give back',
    ],
  ] as [string, Happening[], string, string][])('%s', (_name, happenings, ends, lies) => {
    expect(run(BORN, happenings)).toMatchObject({ state: ends, tray: lies });
  });

  it('a card is not filed out of the reader, and not given back while items are compared with what is filed', () => {
    expect(becomes({ ...BORN, present: false }, { what: 'begun' })).toMatchObject({ ok: false });
    const desk: Life = { ...BORN, tray: 'on the desk' };
    const back = (comparing: number) => becomes(desk, { what: 'moved', to: 'to give back', taken: 0, comparing });
    expect(back(2)).toEqual({
      ok: false,
      why: '2 are still being compared with what is filed: wait for that, or leave them.',
    });
    expect(back(0)).toMatchObject({ ok: true });
  });
});
