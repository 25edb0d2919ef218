import type { FullConfig } from '@playwright/test';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

interface DemoHouse {
  readonly settings: { readonly port: number };
  readonly settingsFile: string;
  readonly cluster: { stop(): void };
  startPanel(): Promise<{ port: number; child: { kill(): void } }>;
}

interface Made {
  readonly LIKE: object;
  makeHouse(): Promise<void>;
  folderOf(worker: number): string;
}

/**
 * Starts the demonstration's house, new, with its clock stopped: one for each worker of the journeys, made once and
 * copied. Each worker finds its own by its number (`inHouse`, `base`). Ends them afterwards.
 */
export default async function openHouses(config: FullConfig): Promise<() => Promise<void>> {
  const load = (path: string) =>
    import(pathToFileURL(join(ROOT, path)).href) as Promise<Record<string, (...parameters: unknown[]) => Promise<unknown>>>;
  const { makeHouse, folderOf, LIKE } = (await import(pathToFileURL(join(ROOT, 'tools/parts/journeys-house.mjs')).href)) as Made;
  // Whoever runs all tests has made it already, while others ran.
  if (!process.env['TALLY_JOURNEYS_MADE']) await makeHouse();
  const { openDemoHouse, copyDemoHouse } = await load('tools/parts/demo-house.mjs');
  const first = (await openDemoHouse!(folderOf(0), LIKE)) as DemoHouse;
  const houses = [first];
  for (let worker = 1; worker < config.workers; worker++)
    houses.push((await copyDemoHouse!(first, folderOf(0), folderOf(worker), `tally_${worker}`)) as DemoHouse);
  const { startServer } = await load('tools/parts/serve.mjs');
  const { end } = await load('tools/parts/run.mjs');
  const running = await Promise.all(
    houses.map(async (house, worker) => {
      const panel = await house.startPanel();
      const server = await startServer!(house.settingsFile, house.settings.port);
      process.env[`TALLY_HOUSE_${worker}`] = JSON.stringify({
        base: `http://127.0.0.1:${house.settings.port}`,
        panel: `http://127.0.0.1:${panel.port}`,
        folder: folderOf(worker),
      });
      return { panel, server };
    }),
  );
  return async () => {
    for (const { panel, server } of running) {
      await end!(server);
      panel.child.kill();
    }
    first.cluster.stop();
  };
}
