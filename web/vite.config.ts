import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ['prandel-source', 'module', 'browser', 'import', 'default'] },
  worker: { format: 'es' },
  build: { outDir: 'dist/app', emptyOutDir: true, chunkSizeWarningLimit: 1500 },
  // `npm run dev` says where the API is.
  server: { proxy: { '/api': { target: process.env.PRANDEL_DEV_API ?? 'http://127.0.0.1:4871', ws: true } } },
});
