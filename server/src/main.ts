import { resolve } from 'node:path';
import { Problem } from './store/index.ts';
import { startServer } from './start.ts';

const root = process.cwd();
try {
  const server = await startServer({
    dataFolder: resolve(root, process.env.PLUNDRA_DATA ?? 'data'),
    webFolder: resolve(root, 'web/dist'),
    demoFolder: resolve(root, 'demo/data'),
    port: Number(process.env.PLUNDRA_PORT ?? 4630),
    ...(process.env.PLUNDRA_HOST && { host: process.env.PLUNDRA_HOST }),
  });
  if (process.argv.includes('--with-demo')) await server.demo.open();
  console.log(`Plundra is ready at ${server.url}`);
  const stop = () => void server.stop().then(() => process.exit(0));
  process.once('SIGINT', stop);
  process.once('SIGTERM', stop);
} catch (error) {
  const busy = (error as { code?: string }).code === 'EADDRINUSE';
  if (error instanceof Problem) console.error(error.message);
  else if (busy)
    console.error(
      'Another program uses the port already. Stop it, or choose another port with PLUNDRA_PORT.',
    );
  else console.error(error);
  process.exit(1);
}
