import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

interface DemoHouse {
  readonly settings: { readonly port: number };
  readonly settingsFile: string;
  readonly cluster: { stop(): void };
  startPanel(): Promise<{ port: number; child: { kill(): void } }>;
}

/** Starts the demonstration's house, new, with its clock stopped, for a run of journeys; ends it afterwards. */
export default async function openHouse(): Promise<() => Promise<void>> {
  const load = (path: string) =>
    import(pathToFileURL(join(ROOT, path)).href) as Promise<Record<string, (...parameters: unknown[]) => Promise<unknown>>>;
  const data = join(ROOT, '.tally/journeys');
  const { removeCluster } = await load('tools/parts/cluster.mjs');
  await removeCluster!(join(data, 'db'));
  rmSync(data, { recursive: true, force: true });
  const { openDemoHouse } = await load('tools/parts/demo-house.mjs');
  const house = (await openDemoHouse!(data, { frozen: true, testing: true, cards: [], past: 20 })) as DemoHouse;
  const panel = await house.startPanel();
  const { startServer } = await load('tools/parts/serve.mjs');
  const { end } = await load('tools/parts/run.mjs');
  const server = await startServer!(house.settingsFile, house.settings.port);
  process.env['TALLY_BASE'] = `http://127.0.0.1:${house.settings.port}`;
  process.env['TALLY_PANEL'] = `http://127.0.0.1:${panel.port}`;
  process.env['TALLY_DATA_FOLDER'] = data;
  return async () => {
    await end!(server);
    panel.child.kill();
    house.cluster.stop();
  };
}
