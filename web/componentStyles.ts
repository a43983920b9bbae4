/**
 * The component library makes its styles as it runs, which takes a third of the time in which a page opens. Here they are
 * made when the interface is built: `virtual:component-styles.css` holds those of the components that the sources import. The
 * development server makes them once: one that is imported for the first time is plain until it is started again.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { createElement, type ReactNode } from 'react';
import { extractStyle } from '@ant-design/static-style-extract';
import { ConfigProvider } from 'antd';
import type { Plugin } from 'vite';
import { theme } from './src/theme/tokens.ts';

const NAME = 'virtual:component-styles.css';
const SOURCES = new URL('./src/', import.meta.url);
/** Shown without being imported: what App.useApp() opens, and the pages of long tables. */
const BESIDES = ['Modal', 'message', 'notification', 'Pagination'];

export function componentStyles(): Plugin {
  return {
    name: 'component-styles',
    resolveId: (id) => (id === NAME ? `\0${NAME}` : undefined),
    load: (id) => (id === `\0${NAME}` ? stylesOf(importedComponents()) : undefined),
  };
}

function stylesOf(includes: string[]): string {
  const themed = (children: ReactNode) =>
    createElement(ConfigProvider, { theme: { ...theme, zeroRuntime: false }, children });
  return extractStyle({ includes, customTheme: themed as (node: unknown) => never });
}

function importedComponents(): string[] {
  const names = readdirSync(SOURCES, { recursive: true, encoding: 'utf8' })
    .filter((path) => path.endsWith('.tsx'))
    .flatMap((path) => [
      ...readFileSync(new URL(path, SOURCES), 'utf8').matchAll(/import \{([^}]*)\} from 'antd'/g),
    ])
    .flatMap(([, imported]) => imported.split(',').map((each) => each.trim().split(' ')[0]))
    .filter((name) => /^[A-Z]/.test(name));
  return [...new Set([...names, ...BESIDES])];
}
