import { defineConfig } from 'vite';
import react from '@vitejs/plugin-react';
import { componentStyles } from './componentStyles.ts';

export default defineConfig({
  plugins: [react(), componentStyles()],
  build: {
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 1600,
  },
  server: {
    proxy: { '/api': { target: 'http://127.0.0.1:4630', changeOrigin: true } },
  },
});
