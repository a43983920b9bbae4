import { readFileSync } from 'node:fs';

/**
 * Largest resident memory of this process so far. Not by getrusage: its figure is inherited from the process that started
 * this one (Linux keeps it over exec), and the bench itself holds long recordings.
 */
export function peakMegabytes(): number {
  const kilobytes = /^VmHWM:\s+(\d+) kB/m.exec(readFileSync('/proc/self/status', 'utf8'));
  if (!kilobytes) throw new Error('This system does not tell the peak memory of a process.');
  return Number(kilobytes[1]) / 1024;
}
