import vue from '@vitejs/plugin-vue';
import { defaultClientConditions, defineConfig } from 'vite';
import vuetify from 'vite-plugin-vuetify';

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { conditions: ['source', ...defaultClientConditions] },
  worker: { format: 'es' },
  build: { target: 'es2022', chunkSizeWarningLimit: 900 },
});
