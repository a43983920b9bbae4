import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          include: ['{core,contract,web,cli,demo,bench}/src/**/*.test.ts'],
          // Limits of time are for what hangs: a machine that is shared can take several times as long as usual.
          testTimeout: 90_000,
          // They only compute: as many as there are cores, which is one more than by default.
          maxWorkers: '100%',
          // What they share is never changed, so each worker loads it once.
          isolate: false,
          // Projects of different widths must run one after another.
          sequence: { groupOrder: 0 },
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/src/**/*.test.ts'],
          globalSetup: 'scripts/buildServer.mjs',
          testTimeout: 180_000,
          hookTimeout: 180_000,
          pool: 'forks',
          isolate: false,
          maxWorkers: '100%',
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: {
          name: 'browser',
          include: ['e2e/**/*.e2e.ts'],
          globalSetup: ['scripts/buildServer.mjs', 'e2e/template.ts'],
          testTimeout: 360_000,
          hookTimeout: 360_000,
          // A busy machine takes longer than the second that is waited by default.
          expect: { poll: { timeout: 45_000 } },
          // Sound and pictures come when the machine has time for them; the report names what needed a second go.
          retry: 1,
          // Each file has a browser, a server and a data folder of its own; what they import is never changed.
          pool: 'forks',
          isolate: false,
          // Recording and playing take their time whatever the machine does: one more than it has cores.
          maxWorkers: 3,
          sequence: { groupOrder: 2 },
        },
      },
    ],
  },
});
