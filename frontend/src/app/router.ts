import { createRouter, createWebHistory } from 'vue-router'

import { RENAMED, STAGES } from '@/app/stages'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'boards', component: () => import('@/features/boards/BoardsView.vue') },
    {
      path: '/boards/:boardId(\\d+)',
      name: 'board',
      component: () => import('@/features/boards/BoardView.vue'),
      props: (route) => ({ boardId: Number(route.params.boardId) }),
    },
    {
      path: `/starters/:starterId(\\d+)/:stage(${Object.keys(RENAMED).join('|')})`,
      redirect: (to) => `/starters/${to.params.starterId}/${RENAMED[String(to.params.stage)]}`,
    },
    {
      path: `/starters/:starterId(\\d+)/:stage(${STAGES.map((s) => s.name).join('|')})?`,
      name: 'starter',
      component: () => import('@/app/StarterView.vue'),
      props: (route) => ({
        starterId: Number(route.params.starterId),
        stage: (route.params.stage as string) || 'plate',
      }),
    },
    {
      path: '/catalogue/:catalogueId(\\d+)?/:table?',
      name: 'catalogue',
      component: () => import('@/features/catalogue/CatalogueView.vue'),
      props: (route) => ({
        catalogueId: Number(route.params.catalogueId || 0),
        table: (route.params.table as string) || 'contactors',
      }),
    },
    {
      path: '/tables/:name?',
      name: 'tables',
      component: () => import('@/features/practice/PracticeView.vue'),
      props: (route) => ({ name: (route.params.name as string) || '' }),
    },
    {
      path: '/people',
      name: 'people',
      component: () => import('@/features/people/PeopleView.vue'),
    },
    { path: '/pair', name: 'pair', component: () => import('@/features/people/PairView.vue') },
    {
      path: '/licences',
      name: 'licences',
      component: () => import('@/app/LicencesView.vue'),
    },
    { path: '/:rest(.*)*', name: 'lost', component: () => import('@/app/LostView.vue') },
  ],
})
