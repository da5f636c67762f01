import { readFile, readdir, readlink, realpath, statfs, open } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import type { StorageKind } from '@larder/contract';

/** A volume may say who it is in a file of this name at its top: a line of 8 to 64 letters, digits and dashes. */
export const VOLUME_FILE = '.volume-id';
const VOLUME_ID = /^[A-Za-z0-9-]{8,64}$/;
const LONGEST_FILE_BYTES = 200;

/** Types of file systems that lie on another machine; the kernel's names. */
const NETWORK = /^(nfs\d?|cifs|smb\d?|smbfs|9p|ceph|glusterfs|afs|fuse\.(sshfs|glusterfs|s3fs|rclone))$/;
/** Where desktops put what is plugged in; common practice, no source. */
const PLUGGED_IN = ['/media', '/run/media', '/mnt', '/Volumes'];

interface Mount {
  readonly point: string;
  readonly type: string;
  readonly source: string;
}

/** The kernel's list writes spaces and line breaks in paths as octal. */
const unescaped = (text: string): string =>
  text.replace(/\\([0-7]{3})/g, (_all, octal: string) => String.fromCharCode(parseInt(octal, 8)));

export function readMounts(table: string): Mount[] {
  return table.split('\n').flatMap((line) => {
    const [before = '', after = ''] = line.split(' - ');
    const point = before.split(' ')[4];
    const [type, source] = after.split(' ');
    return point && type && source ? [{ point: unescaped(point), type, source: unescaped(source) }] : [];
  });
}

async function mountOf(path: string): Promise<Mount | null> {
  const [table, real] = await Promise.all([
    readFile('/proc/self/mountinfo', 'utf8').catch(() => ''),
    realpath(path).catch(() => path),
  ]);
  return readMounts(table)
    .filter(({ point }) => point === '/' || real === point || real.startsWith(`${point}/`))
    .reduce<Mount | null>((best, each) => (best && best.point.length > each.point.length ? best : each), null);
}

/** What a volume says of itself in its file; null if it has none. */
async function writtenId(root: string): Promise<string | null> {
  const file = await open(join(root, VOLUME_FILE), 'r').catch(() => null);
  if (!file) return null;
  try {
    const { bytesRead, buffer } = await file.read(Buffer.alloc(LONGEST_FILE_BYTES), 0, LONGEST_FILE_BYTES, 0);
    const text = buffer.subarray(0, bytesRead).toString('utf8').trim();
    return VOLUME_ID.test(text) ? text : null;
  } catch {
    return null;
  } finally {
    await file.close();
  }
}

/** The identity of the file system that is mounted exactly at a root, as udev lists it. */
async function fileSystemId(root: string, mount: Mount | null): Promise<string | null> {
  if (!mount || mount.point !== root || !mount.source.startsWith('/dev/')) return null;
  const folder = '/dev/disk/by-uuid';
  for (const uuid of await readdir(folder).catch(() => []))
    if (basename(await readlink(join(folder, uuid)).catch(() => '')) === basename(mount.source)) return uuid;
  return null;
}

/** By what a volume is known again wherever it is mounted; null if it has nothing of the kind. */
export async function volumeAt(root: string): Promise<string | null> {
  const written = await writtenId(root);
  if (written) return `file:${written}`;
  const uuid = await fileSystemId(root, await mountOf(root));
  return uuid && `fs:${uuid}`;
}

export async function kindAt(root: string): Promise<StorageKind> {
  const mount = await mountOf(root);
  if (mount && NETWORK.test(mount.type)) return 'network';
  const device = basename(mount?.source ?? '').replace(/p?\d+$/, '');
  const says = await readFile(`/sys/class/block/${device}/removable`, 'utf8').catch(() => '0');
  return says.trim() === '1' || PLUGGED_IN.some((place) => root.startsWith(`${place}/`)) ? 'removable' : 'local';
}

/** Looks for a volume where it may have come back: beside where it was, and where things are plugged in. */
export async function findVolume(volume: string, lastRoot: string): Promise<string | null> {
  const near = [dirname(lastRoot), dirname(dirname(lastRoot)), ...PLUGGED_IN];
  for (const place of new Set(near))
    for (const root of await foldersIn(place)) {
      if (root !== lastRoot && (await volumeAt(root)) === volume) return root;
      // One level further down, as in `/media/person/card`.
      if (PLUGGED_IN.includes(place) || place === dirname(dirname(lastRoot)))
        for (const inner of await foldersIn(root))
          if (inner !== lastRoot && (await volumeAt(inner)) === volume) return inner;
    }
  return null;
}

const MOST_FOLDERS = 200;
const foldersIn = async (place: string): Promise<string[]> =>
  place === '/'
    ? []
    : (await readdir(place, { withFileTypes: true }).catch(() => []))
        .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
        .slice(0, MOST_FOLDERS)
        .map((entry) => join(place, entry.name));

/** How much a volume holds and has free; nulls where it does not say. */
export async function spaceAt(root: string): Promise<{ capacityBytes: number | null; freeBytes: number | null }> {
  try {
    const { blocks, bavail, bsize } = await statfs(root);
    return { capacityBytes: blocks * bsize || null, freeBytes: blocks > 0 ? bavail * bsize : null };
  } catch {
    return { capacityBytes: null, freeBytes: null };
  }
}
