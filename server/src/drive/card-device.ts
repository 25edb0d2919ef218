import { execFile } from 'node:child_process';
import { open, statfs } from 'node:fs/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import { promisify } from 'node:util';
import { fatFlagsAt, fileSystemOf, NO_FACTS, volumeHealth, type CardFacts, type VolumeHealth } from '@tally/core/reader';
import { z } from 'zod';

const execute = promisify(execFile);
const LOOK_MS = 5_000;
const LET_GO_MS = 60_000;
/** Something may still look at it for a moment: a picture being shown. */
const BUSY_TRIES = 6;
const BUSY_WAIT_MS = 500;

/** The house's own commands, `{folder}` for the card's folder. */
export interface ReaderCommands {
  readonly look?: readonly string[] | undefined;
  readonly letGo?: readonly string[] | undefined;
}

const Text = z.string().nullish();
const Mounts = z.object({ filesystems: z.array(z.object({ source: z.string(), fstype: z.string(), options: z.string() })) });
const Block = z.object({
  ...{ path: z.string(), label: Text, fstype: Text, ro: z.boolean(), model: Text, vendor: Text, hctl: Text },
  ...{ rm: z.boolean().nullish(), hotplug: z.boolean().nullish() },
});
const Blocks = z.object({ blockdevices: z.array(Block) });
type Block = z.infer<typeof Block>;
const Said = z.object({
  ...{ reader: z.string(), slot: z.string(), capacityBytes: z.number(), usedBytes: z.number(), fileSystem: z.string() },
  ...{ volume: z.string(), writeProtected: z.boolean(), health: z.enum(['clean', 'dirty', 'damaged']), letsGo: z.boolean() },
});
const Saying = Said.partial();

/** What the system says of the card in a folder, and the house's own command. Never fails: what nobody says is null. */
export async function cardFacts(folder: string, commands: ReaderCommands): Promise<CardFacts> {
  const [mounted, own] = await Promise.all([mountOf(folder), ownWords(folder, commands.look)]);
  const system = mounted ? await factsOf(folder, mounted) : NO_FACTS;
  return { ...system, letsGo: mounted !== null || commands.letGo !== undefined, ...own };
}

interface Mount {
  readonly source: string;
  readonly fileSystem: string;
  readonly readOnly: boolean;
}

/** What is mounted at exactly this folder; null for a plain one. */
async function mountOf(folder: string): Promise<Mount | null> {
  const said = await json(['findmnt', '-J', '-o', 'SOURCE,FSTYPE,OPTIONS', '-M', folder], Mounts);
  const found = said?.filesystems.at(-1);
  if (!found) return null;
  return { source: found.source, fileSystem: found.fstype, readOnly: found.options.split(',').includes('ro') };
}

async function factsOf(folder: string, { source, fileSystem, readOnly }: Mount): Promise<CardFacts> {
  const isBlock = source.startsWith('/dev/');
  const [room, listed, start] = await Promise.all([
    statfs(folder).catch(() => null),
    isBlock ? blocksOf(source) : [],
    isBlock ? startOf(source) : null,
  ]);
  const [volume] = listed;
  const disk = listed.at(-1);
  const writeProtected = volume?.ro === true || readOnly;
  return {
    reader: named(disk),
    slot: slotOf(disk),
    capacityBytes: room ? room.blocks * room.bsize : null,
    usedBytes: room ? (room.blocks - room.bfree) * room.bsize : null,
    fileSystem: volume?.fstype ?? start?.fileSystem ?? fileSystem,
    volume: volume?.label ?? null,
    writeProtected,
    // What is mounted for writing is marked from its first write on: only the others tell.
    health: writeProtected ? (start?.health ?? null) : null,
    letsGo: true,
  };
}

/** A volume and what it is part of, up to the reader's disk. */
async function blocksOf(source: string): Promise<Block[]> {
  const said = await json(['lsblk', '-J', '-l', '-s', '-o', 'PATH,LABEL,FSTYPE,RO,MODEL,VENDOR,HCTL,RM,HOTPLUG', source], Blocks);
  return said?.blockdevices ?? [];
}

const named = (disk: Block | undefined): string | null =>
  [disk?.vendor, disk?.model]
    .map((one) => one?.trim())
    .filter(Boolean)
    .join(' ') || null;

/** The last number of a reader's address is its slot, counted from 0. */
function slotOf(disk: Block | undefined): string | null {
  const slot = disk?.hctl?.split(':').at(-1);
  return slot === undefined || !/^\d+$/.test(slot) ? null : `slot ${Number(slot) + 1}`;
}

/** What the volume says of itself in its first sector; null where we may not read it. */
async function startOf(device: string): Promise<{ fileSystem: string | null; health: VolumeHealth | null } | null> {
  const file = await open(device, 'r').catch(() => null);
  if (!file) return null;
  try {
    const boot = Buffer.alloc(512);
    await file.read(boot, 0, 512, 0);
    const at = fatFlagsAt(boot);
    const entry = Buffer.alloc(4);
    if (at !== null) await file.read(entry, 0, 4, at);
    return { fileSystem: fileSystemOf(boot), health: volumeHealth(boot, at === null ? null : entry) };
  } catch {
    return null;
  } finally {
    await file.close();
  }
}

async function ownWords(folder: string, look: readonly string[] | undefined): Promise<Partial<CardFacts>> {
  const said = look && (await json(filledIn(look, folder), Saying));
  return Object.fromEntries(Object.entries(said ?? {}));
}

/**
 * Lets a card go: writes what is still to be written, unmounts it and switches its slot off where the system can; or
 * runs the house's own command. @throws Error with words for a person when it is still in use or that fails.
 */
export async function letCardGo(folder: string, { letGo }: ReaderCommands): Promise<void> {
  if (letGo) {
    await ran(filledIn(letGo, folder));
    return;
  }
  const mount = await mountOf(folder);
  if (!mount) throw new Error('it is a plain folder: there is nothing to unmount');
  await unmounted(folder, mount);
  await switchedOff(mount.source);
}

async function unmounted(folder: string, { source }: Mount): Promise<void> {
  // The session's own service knows who may; where there is none, we may ourselves or we may not.
  const ways = [
    ...(source.startsWith('/dev/') ? [['udisksctl', 'unmount', '--no-user-interaction', '-b', source]] : []),
    ['umount', folder],
  ];
  for (let tries = 1; ; tries++) {
    let because = '';
    for (const way of ways) {
      because = await ran(way).then(
        () => '',
        (error: unknown) => (error as Error).message,
      );
      if (because === '' || !(await mountOf(folder))) return;
    }
    if (!/busy/i.test(because) || tries === BUSY_TRIES)
      throw new Error(/busy/i.test(because) ? 'some program still has a file or a folder of it open' : because);
    await sleep(BUSY_WAIT_MS);
  }
}

/** A slot without power is the surest sign. Where the system cannot, the card is unmounted all the same. */
async function switchedOff(source: string): Promise<void> {
  if (!source.startsWith('/dev/')) return;
  const disk = (await blocksOf(source)).at(-1);
  if (disk && (disk.rm === true || disk.hotplug === true))
    await ran(['udisksctl', 'power-off', '--no-user-interaction', '-b', disk.path]).catch(() => undefined);
}

const filledIn = (command: readonly string[], folder: string) => command.map((word) => word.replaceAll('{folder}', folder));

/** @throws Error with what the command said. */
async function ran([program, ...words]: readonly string[]): Promise<string> {
  try {
    const { stdout } = await execute(program!, words, { timeout: LET_GO_MS, maxBuffer: 1_000_000 });
    return stdout;
  } catch (error) {
    const { stderr, message } = error as Error & { stderr?: string };
    const said = stderr?.trim() ?? '';
    throw new Error((said === '' ? message : said).split('\n').at(-1)!.slice(0, 300), { cause: error });
  }
}

async function json<T>([program, ...words]: readonly string[], shape: z.ZodType<T>): Promise<T | null> {
  try {
    const { stdout } = await execute(program!, words, { timeout: LOOK_MS, maxBuffer: 1_000_000 });
    return shape.parse(JSON.parse(stdout));
  } catch {
    return null;
  }
}
