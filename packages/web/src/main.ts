import './no-generated-code.ts';
import '@fontsource/ibm-plex-sans/latin-400.css';
import '@fontsource/ibm-plex-sans/latin-500.css';
import '@fontsource/ibm-plex-sans/latin-600.css';
import '@fontsource/ibm-plex-sans-condensed/latin-400.css';
import '@fontsource/ibm-plex-sans-condensed/latin-500.css';
import '@fontsource/ibm-plex-mono/latin-400.css';
import '@fontsource/ibm-plex-mono/latin-500.css';
import 'vuetify/styles/core';
import './styles.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import AppRoot from './AppRoot.vue';
import { router } from './router.ts';
import { vuetify } from './theme.ts';

createApp(AppRoot).use(createPinia()).use(router).use(vuetify).mount('#app');
