/** Room on the disk of the data folder: said before it runs out. */
import { statfs } from 'node:fs/promises';
import type { Health } from '@plundra/contract';
import { Problem, type DataFolder } from '../store/index.ts';

export interface DiskSpace {
  health(): Promise<Health>;
  /** Throws a {@link Problem} when so many bytes would fill the disk. */
  checkRoom(bytes: number): Promise<void>;
}

/** Less than this is nearly full: an hour of stereo recording takes as much. */
const NEARLY_FULL_BYTES = 1024 ** 3;
/** Songs are still saved when recordings are not taken any more; of a small disk a share. */
const RESERVED_BYTES = 100 * 1024 ** 2;
const RESERVED_SHARE = 0.02;

export interface Space {
  freeBytes: number;
  totalBytes: number;
}

export function createDiskSpace(
  folder: DataFolder,
  space: () => Promise<Space> = async () => {
    const { bavail, blocks, bsize } = await statfs(folder.root);
    return { freeBytes: bavail * bsize, totalBytes: blocks * bsize };
  },
): DiskSpace {
  return {
    async health() {
      const { freeBytes: free } = await space();
      return {
        freeBytes: free,
        warning:
          free < NEARLY_FULL_BYTES
            ? `The disk with your songs is nearly full: ${inWords(free)} are left. Free some space before you record or import more.`
            : null,
      };
    },
    async checkRoom(bytes) {
      const { freeBytes: free, totalBytes } = await space();
      if (bytes + Math.min(RESERVED_BYTES, RESERVED_SHARE * totalBytes) > free)
        throw new Problem(
          507,
          'disk_full',
          `This needs ${inWords(bytes)}, and the disk with your songs has ${inWords(free)} left, some of which is kept for saving. Free some space and try again; nothing was changed.`,
        );
    },
  };
}

function inWords(bytes: number): string {
  return bytes >= 1024 ** 3 ? `${(bytes / 1024 ** 3).toFixed(1)} GB` : `${Math.round(bytes / 1024 ** 2)} MB`;
}
