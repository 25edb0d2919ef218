import { cardIdentity } from '../drive/card-identity.js';
import { basename } from 'node:path';
import { inTransaction } from '../db/database.js';
import { slipOfWatched } from './by-itself.js';
import { listItems } from './listing.js';
import { keepingNow } from '../filing/index.js';
import { happens, type House, intakesWhere, lockIntake, opens, record, setSlip, tell, type Where } from '../house/index.js';
import { addItems, itemsOf, refreshTotals } from '../seeing/index.js';

/**
 * Files arrived whole in a watched folder: they join the folder's open intake, or begin a new one. While that intake is
 * being filed they wait.
 * @param paths of whole files, relative to the folder. @returns false when they must wait.
 */
export async function receiveArrivals(
  house: House,
  watched: House['settings']['watched'][number],
  paths: ReadonlySet<string>,
): Promise<boolean> {
  const { db, settings, clock, jobs } = house;
  const { folder } = watched;
  const listed = (await listItems(folder, settings.zone, await keepingNow(db))).filter((item) => paths.has(item.path));
  const where: Where = { sourcePath: folder, station: settings.station, ...(await cardIdentity(folder, [])) };
  const slip = await slipOfWatched(house, watched);
  return inTransaction(db, async (tx) => {
    const [last] = await intakesWhere(tx, 'i.source_path = $1 and i.station = $2 order by i.id desc limit 1', [
      folder,
      settings.station,
    ]);
    if (last) await lockIntake(tx, last.id);
    if (last?.state === 'filing') return false;
    const known = last ? await itemsOf(tx, last.id) : [];
    const seen = new Set(known.map((item) => `${item.path} ${item.bytes}`));
    const fresh = listed.filter((item) => !seen.has(`${item.path} ${item.bytes}`));
    if (!fresh.length) return true;
    let intakeId = last?.id;
    if (!last || intakeId === undefined || last.state === 'closed') {
      intakeId = await opens(tx, house, { id: last?.card.id ?? null, volume: basename(folder) }, settings.station, where);
      await setSlip(tx, intakeId, slip);
      await record(tx, { at: clock(), kind: 'received', intakeId, who: settings.station, text: `Watching ${folder}.` });
    } else await happens(tx, house, intakeId, { what: 'more came' }, { where });
    await addItems(tx, intakeId, fresh, settings.takeAtFirst === 'all new');
    await refreshTotals(tx, intakeId);
    await jobs.read(tx, intakeId, settings.station);
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'desk' });
    return true;
  });
}
