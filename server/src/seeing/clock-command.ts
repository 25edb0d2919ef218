import { cameraName } from '@tally/core/card';
import { EXIT, jsonLine, table, WHO, WrongUse } from '../cli/output.js';
import type { BodyView } from '@tally/contract';
import { readTrueTime, shiftBetween, shiftInWords } from '@tally/core/capture';
import { cameraBodies, correctClock } from './judge.js';
import { itemsThatFit, said } from './judge-commands.js';
import { type House, intakeNumbered } from '../house/index.js';

interface ClockOptions {
  readonly camera?: string;
  readonly item?: string;
  readonly true?: string;
  readonly seconds?: string;
  readonly zone?: string;
  readonly json?: boolean;
}

/** `tally clock NUMBER`: the cameras of an intake; with a camera and a shift, puts its clock right. */
export async function clockCommand(house: House, number: string, options: ClockOptions): Promise<number> {
  const id = await intakeNumbered(house, number);
  const bodies = await cameraBodies(house, id);
  if (!options.true && !options.seconds && !options.zone) return showBodies(bodies, options.json ?? false);
  const shift = await shiftOf(house, id, options);
  const names = (body: BodyView) => [body.serial, body.model, cameraName(body)];
  const wanted = shift.body ?? options.camera;
  const body = bodies.filter((one) => (wanted ? names(one).includes(wanted) : bodies.length === 1));
  if (body.length !== 1)
    throw new WrongUse(`Say which camera: --camera ${bodies.map((one) => one.serial ?? one.model).join(' | ')}`);
  const { make, model, serial } = body[0]!;
  const { seconds, kind } = shift;
  const count = await correctClock(house, id, { make, model, serial, shift: { seconds, kind } }, WHO);
  said(count, shiftInWords(seconds));
  return EXIT.done;
}

async function shiftOf(
  house: House,
  id: number,
  options: ClockOptions,
): Promise<{ seconds: number; kind: 'clock' | 'zone'; body?: string }> {
  if (options.zone) {
    const hours = Number(options.zone);
    if (!Number.isFinite(hours) || Math.abs(hours) > 26) throw new WrongUse('--zone is a number of hours, such as 1 or -5.5.');
    return { seconds: Math.round(hours * 3600), kind: 'zone' };
  }
  if (options.seconds) {
    const seconds = Number(options.seconds);
    if (!Number.isInteger(seconds)) throw new WrongUse('--seconds is a whole number, such as 3492 or -60.');
    return { seconds, kind: 'clock' };
  }
  if (!options.item) throw new WrongUse('--true needs --item PATH: the picture whose true time is known.');
  const [item] = await itemsThatFit(house, id, [options.item]);
  const moment = readTrueTime(options.true!, item!.cameraLocal, house.settings.dates);
  if (!moment) throw new WrongUse(`${options.true} is no time. Examples: 14:05, 2026-04-18 14:05:30.`);
  const body = item!.serial ?? item!.model;
  return { seconds: shiftBetween(item!.cameraLocal, moment), kind: 'clock', ...(body ? { body } : {}) };
}

function showBodies(bodies: readonly BodyView[], json: boolean): number {
  if (json) bodies.forEach(jsonLine);
  else
    table(
      ['camera', 'serial', 'items', 'first', 'last', 'moved', 'known as', 'found before'],
      bodies.map((body) => [
        ...[cameraName(body), body.serial, body.items, body.first, body.last],
        ...[body.shiftSeconds ? shiftInWords(body.shiftSeconds) : '', body.owner?.name ?? ''],
        body.remembered ? shiftInWords(body.remembered.seconds) : '',
      ]),
    );
  return bodies.some((body) => body.unset > 0) ? EXIT.attention : EXIT.done;
}
