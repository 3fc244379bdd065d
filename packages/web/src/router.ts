import { createRouter, createWebHistory } from 'vue-router';
import HistoryView from './home/HistoryView.vue';
import HomeView from './home/HomeView.vue';
import { QUESTIONS } from './questions/registry.ts';
import WordsView from './home/WordsView.vue';
import WorkspaceView from './workspace/WorkspaceView.vue';

/** The addresses of the page. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: HomeView },
    { path: '/words', component: WordsView },
    { path: '/history/:program', name: 'history', component: HistoryView },
    {
      path: `/recording/:id/:view(${QUESTIONS.map(({ id }) => id).join('|')})?`,
      name: 'recording',
      component: WorkspaceView,
    },
    { path: '/:rest(.*)', redirect: '/' },
  ],
});
