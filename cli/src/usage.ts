import { parseArgs, type ParseArgsConfig } from 'node:util';

/** The command was called with words that it does not know; exit code 2. */
export class UsageError extends Error {}

/** Parses options and positionals; anything unknown is a {@link UsageError}. */
export function parseCommand<T extends NonNullable<ParseArgsConfig['options']>>(args: string[], options: T) {
  try {
    return parseArgs({ args, options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error));
  }
}

/** The one positional that a command needs. */
export function single(positionals: string[], what: string): string {
  if (positionals.length !== 1)
    throw new UsageError(`Exactly one ${what} is needed, ${positionals.length} were given.`);
  return positionals[0];
}

export function parseNumber(name: string, text: string, low: number, high: number): number {
  const value = Number(text);
  if (text.trim() === '' || !(value >= low && value <= high))
    throw new UsageError(`--${name} must lie between ${low} and ${high}, not “${text}”.`);
  return value;
}
