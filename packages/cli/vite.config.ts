import { defineConfig } from 'vite';

/**
 * The command line as a few files, one for each command and one for what they share: to load hundreds takes most of the
 * time of a short command. What it runs as programs of their own, and what only a server needs, stays beside it.
 */
export default defineConfig({
  ssr: { noExternal: ['@brisk-heron/core', '@brisk-heron/server', 'commander', 'picomatch', 'zod'], target: 'node' },
  build: {
    ssr: 'dist/index.js',
    outDir: 'dist/bundle',
    target: 'node20',
    minify: false,
    rolldownOptions: {
      external: [/^fastify$/, /^@fastify\//, /^ws$/, /^apache-arrow$/, /^@brisk-heron\/recorder-node/],
    },
  },
});
