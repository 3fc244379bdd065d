import { createRouter, createWebHistory } from 'vue-router';
import HomeView from './views/HomeView.vue';
import WorkspaceView from './views/WorkspaceView.vue';

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: HomeView },
    { path: '/recording/:id/:view(growth|collections|sites|ledger)?', name: 'recording', component: WorkspaceView },
    { path: '/:rest(.*)', redirect: '/' },
  ],
});
