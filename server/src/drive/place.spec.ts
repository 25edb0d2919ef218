import { describe, expect, it } from '@jest/globals';
import { mkdir, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { scratch } from '../testing/scratch.js';
import { tool } from '../testing/tools.js';
import { markAnew, markPlace, namesIn, probe, standingOf } from './place.js';
import { cardsNow, watchReaders } from './watch-readers.js';

const folder = scratch();
const BY = { house: 'Ostrel Bay Tidelands Trust', houseId: '01900000-0000-7000-8000-000000000000' };
const place = (name: string) => ({ id: name, name, root: join(folder, name) });

describe('is the place there?', () => {
  it('a new place is marked once, and not made; then only its mark lets it be used', async () => {
    const shared = place('shared');
    expect(await standingOf(shared, 'mark-1')).toMatchObject({ online: false });
    expect(await markPlace(shared, 'mark-1', BY)).toBe(false);
    expect(await readdir(folder)).not.toContain('shared');
    await mkdir(shared.root);
    expect(await markPlace(shared, 'mark-1', BY)).toBe(true);
    expect(await markPlace(shared, 'mark-2', BY)).toBe(false);
    expect(await standingOf(shared, 'mark-1')).toMatchObject({ online: true });
    expect(await standingOf(shared, 'mark-2')).toMatchObject({
      online: false,
      problem: expect.stringContaining('mark of “shared” of “Ostrel Bay Tidelands Trust”, another house or') as unknown as string,
      unknown: { mark: { mark: 'mark-1', ...BY } },
    });
    // As marks were before they said whose they are; and one that is spoilt is none.
    await writeFile(join(shared.root, '.tally-place.json'), '{"place":"shared","mark":"mark-0"}');
    expect(await standingOf(shared, 'mark-1')).toMatchObject({
      problem: expect.stringContaining('mark of another place') as unknown as string,
    });
    await writeFile(join(shared.root, '.tally-place.json'), '{"place":"sha');
    expect(await standingOf(shared, 'mark-1')).toMatchObject({ unknown: { mark: null } });
    await markAnew(shared, 'mark-1', BY, { links: true, isMarked: false });
    expect(await standingOf(shared, 'mark-1')).toMatchObject({ online: true });
    expect(await readdir(shared.root)).toEqual(['.tally-place.json']);
    // What stood there a moment ago went away: its mount point gets no mark.
    await rm(join(shared.root, '.tally-place.json'));
    await expect(markAnew(shared, 'mark-1', BY, { links: true, isMarked: true })).rejects.toThrow('went away');
    expect(await readdir(shared.root)).toEqual([]);
  });

  it('an empty mount point is not the drive', async () => {
    const unmounted = place('unmounted');
    await mkdir(unmounted.root);
    expect(await standingOf(unmounted, 'mark')).toMatchObject({
      online: false,
      problem: expect.stringContaining('is the drive mounted?') as unknown as string,
    });
    await rm(unmounted.root, { recursive: true });
    expect(await standingOf(unmounted, 'mark')).toMatchObject({ online: false, problem: `${unmounted.root} is not there` });
  });

  it('a file is not a place', async () => {
    await writeFile(join(folder, 'file'), '');
    expect(await standingOf(place('file'), 'mark')).toMatchObject({ online: false });
  });

  it('free and total space and the device equal those of df and stat', async () => {
    const shared = place('space');
    await mkdir(shared.root);
    await markPlace(shared, 'mark', BY);
    const standing = await standingOf(shared, 'mark');
    if (!standing.online) throw new Error(standing.problem);
    const [available, size] = tool('df', '-B1', '--output=avail,size', shared.root)
      .split('\n')[1]!
      .trim()
      .split(/\s+/)
      .map(Number) as [number, number];
    expect(standing.totalBytes).toBe(size);
    // Others write to this disk at the same time.
    expect(Math.abs(standing.freeBytes - available)).toBeLessThan(size * 0.02);
    expect(standing.device).toBe(tool('stat', '-c', '%d', shared.root).trim());
  });

  it('trying what a place can do leaves nothing behind', async () => {
    const tried = place('tried');
    await mkdir(tried.root);
    expect(await probe(tried)).toMatchObject({ links: true });
    expect(await readdir(tried.root)).toEqual([]);
    expect(await namesIn(tried.root, 'not/there')).toEqual([]);
  });
});

describe('readers', () => {
  it('a card is noticed when it comes and when it goes', async () => {
    const reader = join(folder, 'reader');
    await mkdir(join(reader, 'FIRST'), { recursive: true });
    await writeFile(join(reader, 'not-a-card'), '');
    expect([...(await cardsNow([join(reader, '*')]))]).toEqual([join(reader, 'FIRST')]);

    const stop = new AbortController();
    const seen: string[] = [];
    let wake: () => void = () => undefined;
    const watching = (async () => {
      for await (const change of watchReaders([join(reader, '*')], stop.signal, 50)) {
        seen.push(
          ...change.appeared.map((path) => `+${path.slice(reader.length + 1)}`),
          ...change.vanished.map((path) => `-${path.slice(reader.length + 1)}`),
        );
        if (change.appeared.length || change.vanished.length) wake();
      }
    })();
    const next = () => new Promise<void>((resolve) => (wake = resolve));
    const noticed = async (act: () => Promise<unknown>) => {
      const change = next();
      await act();
      await change;
    };
    await next();
    await noticed(() => mkdir(join(reader, 'SECOND')));
    await noticed(() => rm(join(reader, 'FIRST'), { recursive: true }));
    stop.abort();
    await watching;
    expect(seen).toEqual(['+FIRST', '+SECOND', '-FIRST']);
  });
});
