/** The running application in Debian's Chromium, on a data folder of its own. */
import { cpSync, existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser, type BrowserContext, type Page } from 'playwright-core';
import type { Song } from '@plundra/core/song';
import { paths } from '../contract/src/index.ts';
import { startServer, type RunningServer } from '@plundra/server';
import { afterAll, afterEach, beforeAll, beforeEach, expect, inject } from 'vitest';

const here = (path: string) => new URL(path, import.meta.url).pathname;

/** Built before the tests by scripts/buildServer.mjs. */
const POOL_PROGRAM = new URL('../server/dist/pool.worker.js', import.meta.url);

export interface RunningApp {
  server: RunningServer;
  context: BrowserContext;
  page: Page;
  /** What the page reported as errors; a test that ends with any fails. */
  errors: string[];
  stopServer(): Promise<void>;
  startServer(): Promise<void>;
  restartServer(): Promise<void>;
  newPage(): Promise<Page>;
  close(): Promise<void>;
}

const CHROMIUM = '/usr/bin/chromium';
/** The same without windows, which takes a fifth less of the machine; not every one has it. */
const WITHOUT_WINDOWS = '/usr/bin/chromium-headless-shell';
const EXECUTABLE = existsSync(WITHOUT_WINDOWS) ? WITHOUT_WINDOWS : CHROMIUM;
/** What Playwright leaves out, which a list of our own replaces, and the suggestions of the address bar: pages that every window loads. */
const NOT_NEEDED = [
  'AvoidUnnecessaryBeforeUnloadCheckSync',
  'DestroyProfileOnBrowserClose',
  'HttpsUpgrades',
  'MediaRouter',
  'OptimizationHints',
  'PaintHolding',
  'WebUIOmniboxAimPopup',
  'WebUIOmniboxFullPopup',
  'WebUIOmniboxPopup',
];
const ARGS = [
  '--no-sandbox',
  '--autoplay-policy=no-user-gesture-required',
  // A beeping microphone that needs no permission.
  '--use-fake-device-for-media-stream',
  '--use-fake-ui-for-media-stream',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
  '--disable-gpu',
  `--disable-features=${NOT_NEEDED.join(',')}`,
];

const launch = (more: readonly string[]): Promise<Browser> =>
  chromium.launch({ executablePath: EXECUTABLE, args: [...ARGS, ...more] });

/** A browser that keeps nothing for any address, as its user may set it. */
export async function launchWithoutSiteData(profile: string): Promise<BrowserContext> {
  mkdirSync(join(profile, 'Default'), { recursive: true });
  const cookies = { profile: { default_content_setting_values: { cookies: 2 } } };
  writeFileSync(join(profile, 'Default', 'Preferences'), JSON.stringify(cookies));
  // What its user sets is known to the browser with windows only.
  return chromium.launchPersistentContext(profile, {
    executablePath: CHROMIUM,
    args: ARGS,
    viewport: { width: 1280, height: 800 },
  });
}

/** What the tests of a file share: a browser that knows the programs of the page, and the address that they are known by. */
interface Shared {
  context?: BrowserContext;
  port: number;
}

/** Programs stay known, what the page stored does not. */
async function forget(context: BrowserContext, origin: string): Promise<void> {
  const page = await context.newPage();
  const session = await context.newCDPSession(page);
  await session.send('Storage.clearDataForOrigin', { origin, storageTypes: 'all' });
  await context.clearCookies();
  await page.close();
}

async function openApp(
  browser: Browser,
  shared: Shared,
  fill: (dataFolder: string) => void,
  demoFolder: string,
): Promise<RunningApp> {
  const dataFolder = mkdtempSync(join(tmpdir(), 'plundra-e2e-'));
  fill(dataFolder);
  const start = (port: number) =>
    startServer({ dataFolder, webFolder: here('../web/dist'), demoFolder, port, poolProgram: POOL_PROGRAM });
  let server = await start(shared.port);
  const port = Number(new URL(server.url).port);
  shared.port = port;
  shared.context ??= await browser.newContext({
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // A click must not go where a control was while it still slid in.
    reducedMotion: 'reduce',
    baseURL: server.url,
  });
  const { context } = shared;
  // As long as a busy machine takes to read a recording.
  context.setDefaultTimeout(120_000);
  const errors: string[] = [];
  const newPage = async () => {
    const page = await context.newPage();
    page.on('pageerror', (error) => errors.push(error.message));
    page.on('console', (message) => {
      // That a server is away or refuses something is part of some tests.
      if (message.type() === 'error' && !/Failed to load resource|net::ERR_/.test(message.text()))
        errors.push(message.text());
    });
    return page;
  };
  const page = await newPage();
  return {
    get server() {
      return server;
    },
    context,
    page,
    errors,
    newPage,
    stopServer: () => server.stop(),
    async startServer() {
      server = await start(port);
    },
    async restartServer() {
      await server.stop();
      await new Promise((resolve) => setTimeout(resolve, 1200));
      server = await start(port);
    },
    async close() {
      for (const each of context.pages()) await each.close();
      // Before the next server: what a page sends while it goes must not reach it.
      await forget(context, server.url);
      await server.stop();
      rmSync(dataFolder, { recursive: true, force: true });
    },
  };
}

/**
 * A running application for each test of a file; one whose page reported an error fails. What it hands out is always that
 * of the running test.
 */
export function appForEachTest(
  prepare: (page: Page) => Promise<void> = async () => {},
  /** Puts something into the data folder before the server starts. */
  fill: (dataFolder: string) => void = (dataFolder) =>
    cpSync(inject('template'), dataFolder, { recursive: true }),
  /** The demo songs as they are shipped, and not each recording whole. */
  arranged = false,
  /** Further arguments of the browser. */
  args: readonly string[] = [],
): RunningApp {
  const shared: Shared = { port: 0 };
  let browser: Browser;
  let app: RunningApp;
  beforeAll(async () => {
    browser = await launch(args);
  });
  afterAll(() => browser.close());
  beforeEach(async () => {
    app = await openApp(browser, shared, fill, arranged ? here('../demo/data') : inject('wholeDemo'));
    await prepare(app.page);
  });
  afterEach(async () => {
    expect(app.errors).toEqual([]);
    expect(await componentsWithoutStyles(app.page)).toEqual([]);
    await app.close();
  });
  return {
    get server() {
      return app.server;
    },
    get context() {
      return app.context;
    },
    get page() {
      return app.page;
    },
    get errors() {
      return app.errors;
    },
    stopServer: () => app.stopServer(),
    startServer: () => app.startServer(),
    restartServer: () => app.restartServer(),
    newPage: () => app.newPage(),
    close: () => app.close(),
  };
}

/** Components of the library that are shown and have no rule: their styles are made when the interface is built. */
async function componentsWithoutStyles(page: Page): Promise<string[]> {
  if (page.isClosed()) return [];
  return page.evaluate(() => {
    const names = (text: string) => text.match(/(?<![\w-])ant-[a-z]+(?![a-z])/g) ?? [];
    const rules = [...document.styleSheets].flatMap((sheet) => [...sheet.cssRules]);
    const styled = new Set(
      rules.flatMap((rule) => (rule instanceof CSSStyleRule ? names(rule.selectorText) : [])),
    );
    const shown = [...document.querySelectorAll('[class*="ant-"]')].flatMap((each) =>
      names(each.getAttribute('class')!),
    );
    return [...new Set(shown)].filter((name) => !styled.has(name));
  });
}

/** Makes an empty song and opens it. */
export async function newSong(page: Page, title: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'New song' }).click();
  // The title can be typed at once, without a click into the field.
  await page.getByLabel('Title of the song').and(page.locator(':focus')).waitFor();
  await page.keyboard.type(title);
  await page.keyboard.press('Enter');
  try {
    await page.waitForURL(/\/timeline$/);
  } catch (error) {
    throw new Error(`The new song did not open. The page says: ${await page.innerText('body')}`, {
      cause: error,
    });
  }
}

/** Opens the demo song on its Timeline, straight from the server: the button of the songs page has a test of its own. */
export async function openDemo(page: Page): Promise<void> {
  const answer = await page.request.post(paths.demo);
  const { songIds } = (await answer.json()) as { songIds: string[] };
  await page.goto(`/songs/${songIds[0]}/timeline`);
  await page.getByTestId('part-row').first().waitFor();
}

/** Opens a part in Notes and reads its melody. */
export async function readPart(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name, exact: true }).click();
  await page.waitForURL(/\/notes\//);
  await readMelody(page);
  await page
    .getByTestId('step-read')
    .getByText(/\d+ notes/)
    .waitFor();
  await page.getByLabel(/Notes on a canvas, \d{2}/).waitFor();
}

/** Asks for one line, also where the material would be found out otherwise. */
export async function readMelody(page: Page): Promise<void> {
  const button = page.getByRole('button', { name: 'Read melody' });
  await page
    .getByRole('button', { name: /^Read( melody)?$/ })
    .first()
    .waitFor();
  if ((await button.count()) === 0) {
    await page.getByLabel('Kind of material').click();
    await page.getByTitle('One line', { exact: true }).click();
  }
  await button.last().click();
}

export async function saved(page: Page): Promise<void> {
  await page.getByTestId('save-state').getByText('Saved').waitFor();
}

/** The song as the server has it. */
export async function storedSong(page: Page): Promise<Song> {
  await saved(page);
  return page.evaluate(async () => {
    const id = location.pathname.split('/')[2];
    return ((await (await fetch(`/api/songs/${id}`)).json()) as { song: unknown }).song as never;
  });
}

export async function noteCount(page: Page): Promise<number> {
  const label = await page.getByTestId('line-canvas').getAttribute('aria-label');
  return Number(/canvas, (\d+) note/.exec(label ?? '')?.[1]);
}

export async function selectedCount(page: Page): Promise<number> {
  const label = await page.getByTestId('line-canvas').getAttribute('aria-label');
  return Number(/, (\d+) selected/.exec(label ?? '')?.[1]);
}

/** Puts an analyser for each ear where the sound of the page leaves it, as `window.ears`. */
export async function tapOutput(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const store = window as unknown as { ears?: AnalyserNode[] };
    const connect = AudioNode.prototype.connect as (...args: unknown[]) => AudioNode;
    AudioNode.prototype.connect = function (this: AudioNode, target: unknown, ...rest: unknown[]) {
      if (target instanceof AudioDestinationNode) {
        if (!store.ears) {
          const splitter = this.context.createChannelSplitter(2);
          store.ears = [0, 1].map((ear) => {
            const analyser = this.context.createAnalyser();
            analyser.fftSize = 8192;
            connect.call(splitter, analyser, ear);
            return analyser;
          });
          (store as { splitter?: AudioNode }).splitter = splitter;
        }
        connect.call(this, (store as { splitter?: AudioNode }).splitter);
      }
      return connect.call(this, target, ...rest);
    } as typeof AudioNode.prototype.connect;
  });
}
