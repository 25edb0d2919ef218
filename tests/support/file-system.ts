import { execFileSync } from 'node:child_process';
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';

/** What people have on their cards and drives, and how it is made and mounted here: by the kernel, or by FUSE. */
const KINDS = {
  exfat: {
    make: ['mkfs.exfat'],
    mount: (from: string, to: string, options: string) => ['mount.exfat-fuse', '-o', options, from, to],
  },
  ntfs: {
    make: ['mkntfs', '-Q', '-F'],
    mount: (from: string, to: string, options: string) => ['ntfs-3g', '-o', options, from, to],
  },
  xfs: {
    make: ['mkfs.xfs', '-q', '-f'],
    mount: (from: string, to: string, options: string) => ['mount', '-t', 'xfs', '-o', options, from, to],
  },
  ext4: {
    make: ['mkfs.ext4', '-q', '-F'],
    mount: (from: string, to: string, options: string) => ['mount', '-o', options, from, to],
  },
} as const;
export type FileSystemKind = keyof typeof KINDS;

const run = (command: readonly string[]): string =>
  execFileSync(command[0]!, command.slice(1), { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });

/** Why no file system can be mounted here; null when they can. */
export function whyNotMount(): string | null {
  if (process.getuid?.() !== 0) return 'only root may mount';
  for (const device of ['/dev/loop-control', '/dev/fuse']) if (!existsSync(device)) return `there is no ${device}`;
  for (const tool of ['losetup', 'mkfs.exfat', 'mount.exfat-fuse', 'mkntfs', 'ntfs-3g', 'mkfs.xfs'])
    if (!['/usr/sbin', '/sbin', '/usr/bin', '/bin'].some((folder) => existsSync(join(folder, tool))))
      return `${tool} is not installed`;
  try {
    // In a container root may be root and not mount all the same.
    run(['unshare', '--mount', 'true']);
    return null;
  } catch {
    return 'mounting is not allowed here';
  }
}

/** A file system in a file: a card or a drive that can be pulled out, put in again, and write-protected. */
export class Volume {
  private device: string | null = null;

  private constructor(
    private readonly image: string,
    private readonly kind: FileSystemKind,
    /** Where it is mounted when it is in. */
    readonly at: string,
  ) {}

  /** Makes an empty one and puts it in. */
  static make(folder: string, name: string, kind: FileSystemKind, megabytes: number): Volume {
    const image = join(folder, `${name}.image`);
    writeFileSync(image, '');
    truncateSync(image, megabytes * 1_000_000);
    run([...KINDS[kind].make, image]);
    const at = join(folder, 'mounted', name);
    mkdirSync(at, { recursive: true });
    const volume = new Volume(image, kind, at);
    volume.putIn();
    return volume;
  }

  get isIn(): boolean {
    return readFileSync('/proc/mounts', 'utf8')
      .split('\n')
      .some((line) => line.split(' ')[1] === this.at);
  }

  putIn({ writeProtected = false } = {}): void {
    this.device ??= run(['losetup', '--find', '--show', ...(writeProtected ? ['--read-only'] : []), this.image]).trim();
    run(KINDS[this.kind].mount(this.device, this.at, writeProtected ? 'ro' : 'rw'));
  }

  /** As a hand does it: nobody is asked, and the mount point stays. */
  pull(): void {
    if (this.isIn) run(['umount', '--lazy', this.at]);
    if (this.device) run(['losetup', '--detach', this.device]);
    this.device = null;
  }

  /** After everything was written. */
  eject(): void {
    if (this.isIn) run(['umount', this.at]);
    if (this.device) run(['losetup', '--detach', this.device]);
    this.device = null;
  }

  /** Changes a byte of it while it is out. */
  poke(at: number, byte: number): void {
    const image = openSync(this.image, 'r+');
    writeSync(image, Buffer.from([byte]), 0, 1, at);
    closeSync(image);
  }

  remove(): void {
    this.pull();
    rmSync(this.image, { force: true });
  }
}
