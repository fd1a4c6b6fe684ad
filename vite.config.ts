import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [vue()],
  build: {
    outDir: 'build/web',
    emptyOutDir: true,
    chunkSizeWarningLimit: 900,
    rollupOptions: {
      output: {
        // Schemas are told how to read before the first of them is made, in whatever file it comes.
        manualChunks: (id) => (/node_modules\/zod\/|web\/schemas\.ts/.test(id) ? 'schemas' : undefined),
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:4310' } },
});
