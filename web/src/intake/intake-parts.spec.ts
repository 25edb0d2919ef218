import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, it } from '@jest/globals';
import type { IntakeSummary, ItemView, PlanView } from '@tally/contract';
import { INTAKE, filedAs, item, render, surroundings, type Wire } from '../testing/render';
import { Closer } from '../closer/closer';
import { Drawer } from './drawer';
import { Foot } from './foot';
import { Acts } from '../sheet/acts';
import { IntakeStore } from './intake-store';
import { SheetSource } from '../sheet/sheet-source';
import { View } from '../sheet/view';
import { SheetTile } from '../sheet/sheet-tile';
import { Slip } from './slip';

const PLAN: PlanView = {
  placements: [1, 2].map((n) => ({
    itemId: n,
    from: `DCIM/HM4_041${n}.JPG`,
    folder: '2026/2026-04/2026-04-18_reed-planting',
    name: `20260418_IB_000${n}.jpg`,
    bytes: 1,
    n,
    scope: 's',
  })),
  folders: [{ path: '2026/2026-04/2026-04-18_reed-planting', isNew: true, items: 2, bytes: 2 }],
  ...{
    left: [],
    clashes: [],
    otherDays: [],
    numbers: [],
    missing: [],
    unsaid: [],
    doubts: [],
    bytes: 2,
    seal: 'a',
    beside: ['2026/2026-04/2026-04-12_moth-survey'],
    obstacles: [],
    tooFull: [],
    room: [{ name: 'Shared drive', freeBytes: 83_200_000_000, afterBytes: 83_195_700_000 }],
  },
};

let store: IntakeStore;
let wire: Wire;
const set = (intake: Partial<IntakeSummary>, items: ItemView[] = [item(1), item(2)], plan: PlanView | null = PLAN) => {
  store.intake.set({ ...INTAKE, assignment: { id: 1, slug: 'reed-planting', title: 'Reed planting day' }, ...intake });
  store.items.set(items);
  store.plan.set(plan);
};
beforeEach(() => {
  wire = surroundings(IntakeStore, { provide: SheetSource, useExisting: IntakeStore }, View, Acts);
  store = TestBed.inject(IntakeStore);
});

describe('the slip', () => {
  it('is one sentence, with the folders that filing makes', async () => {
    set({});
    expect((await render(Slip)).text()).toContain(
      'Card C-014 from Ines Barrow, shot for Reed planting day, goes to 2026/2026-04/2026-04-18_reed-plantingnew',
    );
  });

  it('asks for what it does not know', async () => {
    set({ contributor: null, assignment: null }, [item(1)], {
      ...PLAN,
      placements: [],
      folders: [],
      missing: ['contributor', 'assignment'],
    });
    expect((await render(Slip)).text()).toContain(
      'from whom?, shot for what?, goes to … say who and what, and the folders show here',
    );
  });

  it('counts what is taken, left, already filed, doubtful and odd', async () => {
    const doubt = { ...item(4).captured, doubt: 'camera epoch' };
    set(
      {},
      [
        item(1),
        item(2, { taken: false }),
        item(3, {
          alreadyFiled: { path: 'x/y.jpg', intakeId: 1, intakeNumber: '2026-0001', at: '2026-04-12T10:00:00Z', confirmed: true },
        }),
        item(4, { captured: doubt, remark: 'cut off' }),
      ],
      { ...PLAN, doubts: [{ itemId: 4, doubt: 'camera epoch' }] },
    );
    const text = (await render(Slip)).text();
    for (const words of [
      '2 taken, 4.30 MB',
      '1 of 4 were filed on 12 April; 3 are new',
      '1 left, still on the card',
      '1 with a doubtful date',
      '1 with something odd',
    ])
      expect(text).toContain(words);
  });

  it('cannot be changed once it is filed', async () => {
    set({ state: 'tallied' }, [item(1, filedAs('f/1.jpg'))], { ...PLAN, placements: [], folders: [] });
    const { element, text } = await render(Slip);
    expect(text()).toContain('went to f');
    expect([...element.querySelectorAll<HTMLButtonElement>('.word')].map((word) => word.disabled)).toEqual([false, true, true]);
  });
});

describe('the drawer', () => {
  it('shows the tree with new folders, and each old name beside its new one', async () => {
    set({});
    const { element, text } = await render(Drawer);
    expect(text()).toContain('1 folder, 1 new');
    const branches = [...element.querySelectorAll('.tree li')].map((li) => li.textContent.replace(/\s+/g, ' ').trim());
    expect(branches).toEqual(['2026', '2026-04', '2026-04-12_moth-survey', '2026-04-18_reed-plantingnew2']);
    expect(
      [...element.querySelectorAll('tbody tr')].map((tr) => [...tr.querySelectorAll('td')].map((td) => td.textContent.trim())),
    ).toEqual([
      ['HM4_0411.JPG', '20260418_IB_0001.jpg'],
      ['HM4_0412.JPG', '20260418_IB_0002.jpg'],
    ]);
  });

  it('speaks of clashes and obstacles before anything is written, and of what stays', async () => {
    const clash = { itemId: 1, wanted: 'a.jpg', given: 'a-2.jpg', with: 'the drive' as const };
    set({}, [item(1), item(2), item(9, { problem: 'a symbolic link', taken: false })], {
      ...PLAN,
      clashes: [clash],
      obstacles: ['Second copy: /mnt/second is not there'],
    });
    const text = (await render(Drawer)).text();
    for (const words of [
      '1 name not as the rule says.',
      'a.jpg stands on the drive: filed as a-2.jpg',
      '/mnt/second is not there',
      '1 item not filed',
      'cannot be filed: a symbolic link',
    ])
      expect(text).toContain(words);
  });
});

describe('the stick’s rows', () => {
  it('are named after the places of this house, whatever they are called', async () => {
    const place = {
      ...{
        kind: 'second copy',
        root: '/mnt/x',
        required: true,
        fill: 'with the card',
        holds: { kinds: null, assignments: null },
      },
      ...{ online: true, problem: null, asks: null, freeBytes: 1, totalBytes: 2, device: 'a', copies: 0, bytes: 0 },
      waiting: { copies: 0, bytes: 0, hoursAtRisk: 0 },
    };
    wire.one('/api/places').flush([
      { ...place, id: 'a', name: 'Vault' },
      { ...place, id: 'b', name: 'Old tower', required: false },
      { ...place, id: 'c', name: 'Barn' },
    ]);
    set({});
    const { element } = await render(Foot);
    expect([...element.querySelectorAll('.rows span')].map((row) => row.textContent)).toEqual([
      'card',
      'vault',
      'old tower',
      'barn',
    ]);
    expect(store.notches()[0]!.copies).toEqual(['open', 'open', 'open']);
  });
});

describe('what looks filed and is still being compared', () => {
  const known = (id: number, confirmed: boolean) =>
    item(id, {
      alreadyFiled: { path: '2026/a.jpg', intakeId: 3, intakeNumber: '2026-0001', at: '2026-04-12T10:00:00Z', confirmed },
    });

  it('has a mark of its own, and the slip counts it apart from what is proven', async () => {
    set({}, [known(1, true), known(2, false), item(3)]);
    expect((await render(Slip)).text()).toContain('1 of 3 were filed on 12 April, 1 being compared; 1 is new');
    const looks = async (n: number) => {
      const { element } = await render(SheetTile, { tile: store.tiles()[n]! });
      return [
        element.className,
        element.getAttribute('aria-label'),
        element.querySelector('.mark path')?.getAttribute('stroke-dasharray'),
      ];
    };
    expect(await looks(0)).toEqual(['already', expect.stringContaining('already filed as 2026/a.jpg'), null]);
    expect(await looks(1)).toEqual(['likely', expect.stringContaining('being compared, looks filed as 2026/a.jpg'), '3 2']);
  });
});

describe('where everything tallies', () => {
  const copy = (place: string, state: 'tallied' | 'waiting' | 'missing') => ({ place, state, problem: null });
  const PLACES = ['a', 'b'].map((id) => ({
    ...{
      id,
      name: id === 'a' ? 'Shared drive' : 'Off-site copy',
      kind: 'second copy',
      root: '/mnt/x',
      required: true,
      fill: 'later',
    },
    ...{
      holds: { kinds: null, assignments: null },
      online: true,
      problem: null,
      asks: null,
      freeBytes: 1,
      totalBytes: 2,
      device: 'a',
    },
    ...{ copies: 0, bytes: 0, waiting: { copies: 0, bytes: 0, hoursAtRisk: 0 } },
  }));

  it('is not claimed before the places are known, nor while a copy waits or is missing', async () => {
    const says = async (state: 'tallied' | 'waiting' | 'missing') => {
      set({ state: 'tallied', filed: 1 }, [item(1, { filedAs: 'x/1.jpg', copies: [copy('a', 'tallied'), copy('b', state)] })]);
      return (await render(Foot)).text();
    };
    store.loading.set(false);
    expect(await says('waiting')).not.toContain('every place');
    wire.one('/api/places').flush(PLACES);
    expect(await says('waiting')).toContain('in 1 place, Off-site copy fills up later');
    expect(await says('missing')).toContain('in some places only');
    expect(await says('tallied')).toContain('in every place');
  });
});

describe('the one button that matters', () => {
  const button = async () => {
    const { element } = await render(Foot);
    return element.querySelector('.act button')?.textContent.trim() ?? null;
  };
  const filed = [item(1, filedAs('f/1.jpg')), item(2, filedAs('f/2.jpg'))];

  it.each<[string, Partial<IntakeSummary>, ItemView[], string | null]>([
    ['says how many', {}, [item(1), item(2)], 'File 2'],
    ['is a pause while it is filed', { state: 'filing' }, filed, 'Pause'],
    ['lets a paused filing go on', { state: 'filing', paused: true }, filed, 'Go on'],
    ['tries again what does not tally', { state: 'needs attention' }, filed, 'Try again'],
    ['gives back what tallies', { state: 'tallied', tray: 'to give back' }, filed, 'Give back'],
    ['files what was left and is taken now', { state: 'tallied' }, [...filed, item(3)], 'File 1'],
    ['is not there when the card is gone', { state: 'closed', tray: 'out' }, filed, null],
  ])('%s', async (_what, intake, items, words) => {
    set(intake, items);
    expect(await button()).toBe(words);
  });
});

describe('a tile', () => {
  const tile = (change: Partial<ItemView>, companions: ItemView[] = []) =>
    render(SheetTile, { tile: { lead: item(1, change), companions } });

  it.each<[Partial<ItemView>, string, string]>([
    [{}, 'taken', 'true'],
    [{ taken: false }, 'left', 'false'],
    [
      { alreadyFiled: { path: 'x/y.jpg', intakeId: 1, intakeNumber: '1', at: null, confirmed: true } },
      'already filed as x/y.jpg',
      'true',
    ],
    [filedAs('f/1.jpg'), 'filed as f/1.jpg', 'true'],
    [{ filedAs: 'f/1.jpg' }, 'being filed as f/1.jpg', 'true'],
    [{ taken: false, goneAt: '2026-04-21T10:00:00Z' }, 'left, and gone with the clearing', 'false'],
    [{ taken: false, aside: 'gone' }, 'set aside: gone', 'false'],
    [{ problem: 'a symbolic link' }, 'a symbolic link', 'true'],
  ])('%j is said to who cannot see it: %s', async (change, words, selected) => {
    const { element } = await tile(change);
    expect(element.getAttribute('aria-label')).toContain(words);
    expect(element.getAttribute('aria-selected')).toBe(selected);
    expect(element.getAttribute('role')).toBe('option');
  });

  it('wears its companions and its length', async () => {
    expect((await tile({}, [item(2, { kind: 'raw', objectRole: 'raw' })])).text()).toContain('raw');
    const clip = await tile({ kind: 'video', durationMs: 42_000 }, [item(2, { kind: 'sidecar', objectRole: 'sidecar' })]);
    expect(clip.text()).toContain('42 s · sidecar');
  });

  it('has a drawn shape where there is no picture', async () => {
    const { element } = await tile({ kind: 'sound', path: 'SOUND/TIDE_0007.WAV' });
    expect(element.querySelector('img')).toBeNull();
    expect(element.querySelector('ts-picture svg')!.textContent).toContain('WAV');
  });
});

describe('looking closer', () => {
  it('says what the picture is, how its time is known, and where it goes', async () => {
    set({});
    const { text } = await render(Closer);
    for (const words of [
      'DCIM/HM4_0411.JPG',
      '1 of 2',
      '2026-04-18 09:01:00+01:00',
      'by metadata with offset',
      'Halden M4',
      '1500 × 1000',
      '20260418_IB_0001.jpg',
    ])
      expect(text()).toContain(words);
  });
});
