import { createRouter, createWebHistory } from 'vue-router';
import type { Right } from '../core/people/rights.ts';

declare module 'vue-router' {
  interface RouteMeta {
    /** It stands before the sign-in. */
    door?: boolean;
    /** Who may not do this has no use for the section, and is told who does; undefined: it is for everybody who is signed in. */
    right?: Right;
  }
}

/** The sections in the order of the work. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/library' },
    {
      path: '/sign-in',
      name: 'sign-in',
      component: () => import('./sections/people/SignIn.vue'),
      meta: { door: true },
    },
    {
      path: '/sign-in/back',
      name: 'sign-in-back',
      component: () => import('./sections/people/BackPage.vue'),
      meta: { door: true },
    },
    {
      path: '/welcome',
      name: 'welcome',
      component: () => import('./sections/people/WelcomePage.vue'),
      meta: { door: true },
    },
    { path: '/account', name: 'account', component: () => import('./sections/people/AccountSection.vue') },
    {
      path: '/people',
      name: 'people',
      component: () => import('./sections/people/PeopleSection.vue'),
      meta: { right: 'people' },
    },
    {
      path: '/mine',
      name: 'mine',
      component: () => import('./sections/mine/MineSection.vue'),
      meta: { right: 'bring-in' },
    },
    {
      path: '/intake',
      name: 'intake',
      component: () => import('./sections/intake/IntakeSection.vue'),
      meta: { right: 'bring-in' },
    },
    { path: '/library', name: 'library', component: () => import('./sections/library/LibrarySection.vue') },
    {
      path: '/describe',
      name: 'describe',
      component: () => import('./sections/describe/DescribeSection.vue'),
      meta: { right: 'describe' },
    },
    {
      path: '/describe/pages',
      name: 'page-words',
      component: () => import('./sections/describe/PageWords.vue'),
      meta: { right: 'describe' },
    },
    {
      path: '/describe/table',
      name: 'table',
      component: () => import('./sections/describe/TableSection.vue'),
      meta: { right: 'describe' },
    },
    {
      path: '/describe/tags',
      name: 'suggested-tags',
      component: () => import('./sections/describe/SuggestedTagsSection.vue'),
      meta: { right: 'describe' },
    },
    {
      path: '/describe/names',
      name: 'names',
      component: () => import('./sections/naming/NamingSection.vue'),
      meta: { right: 'describe' },
    },
    {
      path: '/library/edit/:id(\\d+)',
      name: 'edit',
      component: () => import('./sections/bench/BenchSection.vue'),
      meta: { right: 'bring-in' },
    },
    {
      path: '/intake/edit/:id(\\d+)',
      name: 'edit-arrival',
      component: () => import('./sections/bench/BenchSection.vue'),
      meta: { right: 'bring-in' },
    },
    { path: '/pages', name: 'pages', component: () => import('./sections/pages/PagesSection.vue') },
    {
      path: '/documents',
      name: 'document',
      component: () => import('./sections/documents/DocumentSection.vue'),
    },
    {
      path: '/upkeep',
      name: 'upkeep',
      component: () => import('./sections/upkeep/UpkeepSection.vue'),
      meta: { right: 'clean' },
    },
    { path: '/export', name: 'export', component: () => import('./sections/export/ExportSection.vue') },
    { path: '/ledger', name: 'ledger', component: () => import('./sections/ledger/LedgerSection.vue') },
    { path: '/:rest(.*)*', redirect: '/library' },
  ],
});
