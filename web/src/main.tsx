import { createRoot } from 'react-dom/client';
import { z } from 'zod';
import { App } from './shell/App.tsx';
import { giveStylesNonce } from './shell/styleNonce.ts';
import { reportUncaught } from './api/reportFault.ts';
import { keepWorkSafe } from './song/sessions.ts';
import '@fontsource/source-sans-3/400.css';
import '@fontsource/source-sans-3/600.css';
import 'virtual:component-styles.css';
import './theme/global.css';

// The content policy forbids compiled validators; without them Zod does not try.
z.config({ jitless: true });

giveStylesNonce();
reportUncaught();
keepWorkSafe();

/** What is written into pictures stays in the typeface it was drawn with: that is there first, unless it takes too long. */
const LONGEST_WAIT_MS = 300;
const typeface = Promise.all(
  [400, 600].map((weight) => document.fonts.load(`${weight} 12px 'Source Sans 3'`)),
);
const waited = new Promise((resolve) => setTimeout(resolve, LONGEST_WAIT_MS));
void Promise.race([typeface, waited])
  .catch(() => undefined)
  .then(() => createRoot(document.getElementById('root')!).render(<App />));
