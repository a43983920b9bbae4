/** Bodies of requests as JSON: small, but for the steps of a song; and never nested without end. */
import express, { Router, type RequestHandler } from 'express';
import { Problem } from '../store/index.ts';

/** Steps carry at most the notes of a reading of several hours. */
const LARGEST_STEPS = '32mb';
const LARGEST_OTHER = '256kb';
/** A song is nested less deep than this. */
const DEEPEST = 40;

const QUOTE = 0x22;
const BACKSLASH = 0x5c;

export const jsonBodies: RequestHandler = Router()
  .post('/api/songs/:id/steps', json(LARGEST_STEPS))
  .use(json(LARGEST_OTHER));

function json(limit: string): RequestHandler {
  return express.json({
    limit,
    type: 'application/json',
    // Looked at before it is parsed: a million brackets would take the memory of all songs together.
    verify: (_request, _response, body) => {
      if (depthOf(body) > DEEPEST)
        throw new Problem(400, 'bad_request', 'The request is nested deeper than anything in a song.');
    },
  });
}

/** How deep brackets stand within each other in a JSON text. */
export function depthOf(text: Uint8Array): number {
  let depth = 0;
  let deepest = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const char = text[i];
    if (quoted) {
      if (char === BACKSLASH) i++;
      else if (char === QUOTE) quoted = false;
    } else if (char === QUOTE) quoted = true;
    // [ and {, ] and } differ by one bit.
    else if ((char | 0x20) === 0x7b) deepest = Math.max(deepest, ++depth);
    else if ((char | 0x20) === 0x7d) depth--;
  }
  return deepest;
}
