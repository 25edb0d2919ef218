import { type FileHandle, mkdtemp, open, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** So many are kept in memory. */
const KEPT = 20_000;

/**
 * A list that is longer than memory should hold: what is over waits in a temporary file, which goes with the process whatever
 * becomes of it. Things that JSON can say, in the order in which they came.
 */
export class Spilled<T> {
  private kept: T[] = [];
  private file: FileHandle | null = null;
  private readonly blocks: { readonly at: number; readonly length: number }[] = [];
  private size = 0;

  constructor(private readonly most = KEPT) {}

  /** @throws the system's error when there is no room for what is over */
  async add(some: readonly T[]): Promise<void> {
    for (const one of some) this.kept.push(one);
    if (this.kept.length < this.most) return;
    const bytes = Buffer.from(JSON.stringify(this.kept));
    this.file ??= await unnamedFile();
    for (let done = 0; done < bytes.length;)
      done += (await this.file.write(bytes, done, bytes.length - done, this.size + done)).bytesWritten;
    this.blocks.push({ at: this.size, length: bytes.length });
    this.size += bytes.length;
    this.kept = [];
  }

  /** All of it, some at a time. */
  async *parts(): AsyncGenerator<readonly T[]> {
    for (const { at, length } of this.blocks) {
      const bytes = Buffer.alloc(length);
      for (let done = 0; done < length;) {
        const { bytesRead } = await this.file!.read(bytes, done, length - done, at + done);
        if (!bytesRead) throw new Error('a temporary file is shorter than what was written to it');
        done += bytesRead;
      }
      yield JSON.parse(bytes.toString('utf8')) as T[];
    }
    if (this.kept.length) yield this.kept;
  }

  async end(): Promise<void> {
    await this.file?.close();
    this.file = null;
  }
}

/** A file without a name: nothing is left of it once it is closed. */
async function unnamedFile(): Promise<FileHandle> {
  const folder = await mkdtemp(join(tmpdir(), 'tally-look-'));
  try {
    return await open(join(folder, 'spilled'), 'wx+', 0o600);
  } finally {
    await rm(folder, { recursive: true });
  }
}
