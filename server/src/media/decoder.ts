import { cpus } from 'node:os';
import workerpool, { type Pool } from 'workerpool';
import { builtFile } from '../aside/built.js';
import { limited } from '../aside/limited.js';
import type { bothSizes, formatOf, grey, Picture, shrink, Turn } from './pixels.js';

/**
 * Memory of one decoding. A progressive JPEG is decoded whole: one of 61 million pixels takes 255 MB, one of 16,000² 830.
 * Of what is beyond, the picture that the camera embedded is shown.
 */
const MEMORY_BYTES = 700e6;
/** The largest pictures that cameras write take a few seconds on a busy machine. */
const LONGEST_MS = 20_000;

/** The door to what decodes pictures: processes of its own, begun when they are first needed. */
export class Decoder {
  private pool: Pool | null = null;
  private isClosed = false;

  /** @param memoryBytes what one decoding may take. */
  constructor(private readonly memoryBytes: number = MEMORY_BYTES) {}

  /** A JPEG of at most so many pixels on its long side; null when it cannot be made. */
  shrink(picture: Picture, pixels: number, turn: Turn): Promise<Buffer | null> {
    return this.run<typeof shrink>('shrink', [picture, pixels, turn]).then((made) => made && asBuffer(made));
  }

  async bothSizes(...args: Parameters<typeof bothSizes>): Promise<Awaited<ReturnType<typeof bothSizes>> | null> {
    const made = await this.run<typeof bothSizes>('bothSizes', args);
    return made && { ...made, closer: asBuffer(made.closer), sheet: asBuffer(made.sheet) };
  }

  grey(picture: Picture, pixels: number): Promise<Buffer | null> {
    return this.run<typeof grey>('grey', [picture, pixels]).then((made) => made && asBuffer(made));
  }

  /** The format of a picture by its own header; null when it is none. */
  formatOf(picture: Picture): Promise<string | null> {
    return this.run<typeof formatOf>('formatOf', [picture]);
  }

  async close(): Promise<void> {
    this.isClosed = true;
    await this.pool?.terminate(true);
  }

  private opened(): Pool {
    if (this.isClosed) throw new Error('decoding has ended');
    return (this.pool ??= openPool(this.memoryBytes));
  }

  /** What cannot be decoded, takes too long or too much, has no picture: there is nothing else to say of it. */
  private async run<T extends (...args: never[]) => Promise<unknown>>(
    method: string,
    args: Parameters<T>,
  ): Promise<Awaited<ReturnType<T>> | null> {
    const pool = this.opened();
    try {
      return await pool.exec<(...given: unknown[]) => Awaited<ReturnType<T>>>(method, args).timeout(LONGEST_MS);
    } catch (error) {
      // Ended by us: that says nothing about the picture.
      if (this.isClosed) throw error;
      return null;
    }
  }
}

const asBuffer = (bytes: Uint8Array): Buffer => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);

function openPool(memoryBytes: number): Pool {
  const { command, before } = limited({ memoryBytes }, process.execPath);
  return workerpool.pool(builtFile('./decoder-process.js', import.meta.url), {
    workerType: 'process',
    // All begin at once: whoever looks need not wait for one to start while others work ahead.
    minWorkers: 'max',
    maxWorkers: Math.max(2, cpus().length),
    workerTerminateTimeout: 500,
    forkOpts: {
      execPath: command,
      execArgv: before,
      // Buffers as they are, not as text.
      serialization: 'advanced',
      env: { PATH: process.env['PATH'], LANG: 'C.UTF-8', UV_THREADPOOL_SIZE: '2' },
    },
  });
}
