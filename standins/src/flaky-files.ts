import { link, open, rename, unlink, type FileHandle } from 'node:fs/promises';

/** What goes wrong with files whose path contains `path`. Offsets are bytes from the start of a file. */
export interface Fault {
  readonly path: string;
  /** Reads that touch this byte fail; those of at most `unlessSmallerThan` bytes do not. */
  readonly unreadableAt?: number;
  readonly unlessSmallerThan?: number;
  /** The device is pulled when this byte is reached: its root is moved to the second path. */
  readonly vanishesAt?: { readonly byte: number; readonly root: string; readonly to: string };
  /** Reads give other bytes from here on, though size and times stay. */
  readonly returnsChangedFrom?: number;
  /** Writes that reach this byte fail with this code: ENOSPC, EROFS, EIO… */
  readonly writeFails?: { readonly byte: number; readonly code: string };
  /** One bit of this byte is another one after it was written. */
  readonly flipsBitAt?: number;
  /** What was written from this byte on is gone after the flush. */
  readonly losesFrom?: number;
  /** It gets no other name and does not go: that fails with this code. */
  readonly moveFails?: string;
  /** Each read and write takes so much longer. */
  readonly slowByMs?: number;
  /** Called before each read; for tests that do something in the middle of a file. */
  readonly onRead?: () => Promise<void> | void;
}

const failing = (code: string) => Object.assign(new Error(`${code}: a stand-in failed on purpose`), { code });
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/**
 * The system's files with devices that fail on purpose: a card with bad sectors or a loose contact, a drive that is
 * full, slow, lies or forgets. The same shape as the product's door to files.
 */
export function flakyFiles(faults: readonly Fault[]) {
  const mayMove = (path: string) => {
    const code = faults.find((one) => path.includes(one.path))?.moveFails;
    if (code) throw failing(code);
  };
  return {
    async link(from: string, to: string) {
      mayMove(from);
      await link(from, to);
    },
    async rename(from: string, to: string) {
      mayMove(from);
      await rename(from, to);
    },
    async unlink(path: string) {
      mayMove(path);
      await unlink(path);
    },
    async open(path: string | Buffer, flags: number, mode?: number) {
      const handle = await open(path, flags, mode);
      const name = path.toString();
      const fault = faults.find((one) => name.includes(one.path));
      return fault ? flaky(handle, fault, name) : handle;
    },
  };
}

/** As a bad cell of a drive would; a file that is too short has no such byte. */
async function flipBit(path: string, at: number): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    const byte = Buffer.alloc(1);
    if ((await handle.read(byte, 0, 1, at)).bytesRead === 0) return;
    byte[0]! ^= 1;
    await handle.write(byte, 0, 1, at);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

function flaky(handle: FileHandle, fault: Fault, path: string) {
  let vanished = false;
  return {
    stat: (() => handle.stat()) as FileHandle['stat'],
    truncate: (length?: number) => handle.truncate(length),
    utimes: (atime: Date, mtime: Date) => handle.utimes(atime, mtime),
    close: () => handle.close(),
    async sync() {
      await handle.sync();
      if (fault.losesFrom !== undefined) await handle.truncate(fault.losesFrom);
      if (fault.flipsBitAt !== undefined) await flipBit(path, fault.flipsBitAt);
    },
    read: (async (buffer: Buffer, offset: number, length: number, position: number) => {
      await fault.onRead?.();
      if (fault.slowByMs) await wait(fault.slowByMs);
      const end = position + length;
      const { vanishesAt, unreadableAt, returnsChangedFrom } = fault;
      if (vanishesAt && end > vanishesAt.byte) {
        if (!vanished) await rename(vanishesAt.root, vanishesAt.to).catch(() => undefined);
        vanished = true;
        throw failing('EIO');
      }
      const small = fault.unlessSmallerThan !== undefined && length <= fault.unlessSmallerThan;
      if (unreadableAt !== undefined && position <= unreadableAt && unreadableAt < end && !small) throw failing('EIO');
      const done = await handle.read(buffer, offset, length, position);
      if (returnsChangedFrom !== undefined)
        for (let at = Math.max(position, returnsChangedFrom); at < position + done.bytesRead; at++)
          buffer[offset + at - position]! ^= 0xff;
      return done;
    }) as unknown as FileHandle['read'],
    write: (async (buffer: Buffer, offset: number, length: number, position: number) => {
      if (fault.slowByMs) await wait(fault.slowByMs);
      const end = position + length;
      if (fault.writeFails && end > fault.writeFails.byte) throw failing(fault.writeFails.code);
      return handle.write(buffer, offset, length, position);
    }) as unknown as FileHandle['write'],
  };
}
