/** A sound file that cannot be read, or only in part. The message is a sentence for the user. */
export class AudioFormatError extends Error {
  override name = 'AudioFormatError';
  constructor(
    readonly code: 'empty' | 'unknown_format' | 'damaged' | 'unsupported' | 'no_samples' | 'too_long',
    message: string,
  ) {
    super(message);
  }
}
