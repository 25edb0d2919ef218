import { link, open, rename, unlink, type FileHandle } from 'node:fs/promises';

/** An open file, as far as copying and proving need one. */
export type OpenFile = Pick<FileHandle, 'read' | 'write' | 'stat' | 'truncate' | 'utimes' | 'sync' | 'close'>;

/** The door to cards and places when bytes or names are moved: the system's files, or a stand-in for a device that fails. */
export interface Files {
  open(path: string | Buffer, flags: number, mode?: number): Promise<OpenFile>;
  link(from: string, to: string): Promise<void>;
  rename(from: string, to: string): Promise<void>;
  unlink(path: string): Promise<void>;
}

export const systemFiles: Files = { open, link, rename, unlink };
