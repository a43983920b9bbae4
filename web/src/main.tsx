import { createRoot } from 'react-dom/client';
import { z } from 'zod';
import { App } from './shell/App.tsx';
import { giveStylesNonce } from './shell/styleNonce.ts';
import { reportUncaught } from './api/reportFault.ts';
import { keepWorkSafe } from './song/sessions.ts';
import '@fontsource/source-sans-3/400.css';
import '@fontsource/source-sans-3/600.css';
import './theme/global.css';

// The content policy forbids compiled validators; without them Zod does not try.
z.config({ jitless: true });

giveStylesNonce();
reportUncaught();
keepWorkSafe();
createRoot(document.getElementById('root')!).render(<App />);
