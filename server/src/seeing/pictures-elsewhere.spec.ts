import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { readdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { compose, type Composition } from '../composition.js';
import { realPictures } from '../testing/cards.js';
import { bring, openHouse, type TestHouse, until } from '../testing/house.js';
import { pictureFromStation } from './pictures-elsewhere.js';
import { Previewer } from './previewer.js';
import { itemsOf } from './store/items.js';

/** The desk has no reader; the boathouse has a card in its own, and makes its pictures. */
let desk: Composition;
let boathouse: TestHouse;
let previewer: Previewer;
let card: string;
let intakeId: number;
const never = new AbortController().signal;
beforeAll(async () => {
  boathouse = await openHouse();
  const settings = { ...boathouse.settings, station: 'Desk', readers: [], dataDir: join(boathouse.folder, 'desk') };
  desk = await compose(settings, { clock: () => boathouse.clock.now, intervals: boathouse.house.intervals });
  desk.bus.start();
  boathouse.bus.start();
  card = join(boathouse.folder, 'CARD');
  await realPictures(card, 5, 'jhead/normal-digicams');
  await sharp({ create: { width: 1600, height: 1000, channels: 3, background: '#0f5b4c' } })
    .jpeg()
    .toFile(join(card, 'A.JPG'));
  intakeId = await bring(boathouse, card);
  previewer = new Previewer(boathouse.house);
  previewer.start();
});
afterAll(async () => {
  await previewer.stop();
  for (const { bus } of [desk, boathouse]) await bus.stop();
  await desk.close();
  await boathouse.end();
});

const items = () => itemsOf(desk.house.db, intakeId);
const keptAtDesk = async () =>
  (await readdir(join(boathouse.folder, 'desk/previews'), { recursive: true })).filter((name) => name.endsWith('.jpg'));

describe('pictures of a card in another station’s reader', () => {
  it('come from there, all at once, are kept here, and leave nothing in between', async () => {
    const all = await items();
    const pictures = await Promise.all(all.map(({ id }) => pictureFromStation(desk.house, id, 'sheet', never)));
    for (const picture of pictures) {
      const { width, height } = await sharp(picture!).metadata();
      expect(Math.max(width, height)).toBeLessThanOrEqual(400);
    }
    const [first] = all;
    const large = all.find(({ path }) => path === 'A.JPG')!;
    const closer = await pictureFromStation(desk.house, large.id, 'closer', never);
    expect((await sharp(closer!).metadata()).width).toBe(1280);
    expect(await keptAtDesk()).toHaveLength(all.length + 1);
    // Its own station asks nobody.
    expect(await pictureFromStation(boathouse.house, first!.id, 'sheet', never)).toBeNull();
  });

  it('are measured there: sharpness and likeness are known everywhere', async () => {
    await until(async () => (await items()).every(({ look, sharpness }) => look !== null && sharpness !== null));
  });

  it('do not come from a card that is away, nor for somebody who has gone', async () => {
    const [first] = await items();
    await rename(card, `${card}-pocket`);
    // What was seen before is kept; what was not is not there.
    const gone = new AbortController();
    setTimeout(() => gone.abort(), 1_500);
    await desk.house.db.query('delete from picture_asked');
    expect(await pictureFromStation(desk.house, first!.id, 'sheet', gone.signal)).toBeNull();
    await rename(`${card}-pocket`, card);
    expect(await pictureFromStation(desk.house, first!.id, 'sheet', never)).not.toBeNull();
  });
});
