/**
 * The record of faults: what went wrong that nobody foresaw, one JSON line each, in the data folder. It holds no contents
 * of songs: where, what kind, and the place in the code. When a file is full the one before it goes.
 */
import { appendFileSync, mkdirSync, readFileSync, renameSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Fault, FaultReport } from '@plundra/contract';
import type { DataFolder } from '../store/index.ts';

const MAX_BYTES = 512 * 1024;
const SHOWN = 200;

export interface FaultRecord {
  add(where: string, error: unknown): void;
  report(fault: FaultReport): void;
  /** The newest first. */
  list(): Fault[];
}

export function createFaultRecord(folder: DataFolder, now: () => Date = () => new Date()): FaultRecord {
  const path = join(folder.root, 'faults', 'faults.log');
  const older = `${path}.1`;
  const write = (fault: Fault) => {
    try {
      mkdirSync(join(folder.root, 'faults'), { recursive: true });
      if (sizeOf(path) > MAX_BYTES) renameSync(path, older);
      appendFileSync(path, `${JSON.stringify(fault)}\n`);
    } catch {
      // A full disk keeps no record; what was asked is answered all the same.
    }
  };
  const report = ({ where, message, stack }: FaultReport) =>
    write({
      at: now().toISOString(),
      where: withoutContents(where),
      message: withoutContents(message),
      ...(stack !== undefined && { stack: placesOf(stack) }),
    });
  return {
    report,
    add(where, error) {
      const known = error instanceof Error;
      report({
        where,
        message: known ? `${error.name}: ${error.message}` : 'unknown',
        ...(known && error.stack && { stack: error.stack }),
      });
    },
    list() {
      const lines = [older, path].flatMap((each) => textOf(each).split('\n')).filter(Boolean);
      return lines
        .slice(-SHOWN)
        .reverse()
        .flatMap((line) => {
          try {
            return [JSON.parse(line) as Fault];
          } catch {
            return [];
          }
        });
    },
  };
}

function sizeOf(path: string): number {
  try {
    return statSync(path).size;
  } catch {
    return 0;
  }
}

function textOf(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return '';
  }
}

const LONGEST = 300;

/** Quoted text may be a title or a name. */
function withoutContents(text: string): string {
  return text
    .replace(/“[^”]*”|"[^"]*"|'[^']*'|`[^`]*`/g, '…')
    .replace(/\s+/g, ' ')
    .slice(0, LONGEST);
}

/** Of a stack the places in the code, without the folders of this machine. */
function placesOf(stack: string): string {
  return stack
    .split('\n')
    .filter((line) => /^\s*(at |.*@)/.test(line))
    .slice(0, 12)
    .map((line) => line.trim().replace(/\(?(?:\w+:\/\/)?\/?(?:[^\s()]*\/)?([^/\s()]+:\d+:\d+)\)?/, '$1'))
    .join('\n');
}
