import { createRouter, createWebHistory } from 'vue-router'
import { called } from './shared/title'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/today' },
    { path: '/today', component: () => import('./features/today/TodayPage.vue'), meta: { title: 'Today' } },
    { path: '/bench', component: () => import('./features/bench/BenchPage.vue'), meta: { title: 'Bench' } },
    { path: '/work', component: () => import('./features/work/WorkPage.vue'), meta: { title: 'Work' } },
    { path: '/machines', component: () => import('./features/machines/MachinesPage.vue'), meta: { title: 'Machines' } },
    { path: '/readings', component: () => import('./features/readings/ReadingsPage.vue'), meta: { title: 'Readings' } },
    { path: '/scenarios', redirect: '/library' },
    { path: '/library', component: () => import('./features/library/LibraryPage.vue'), meta: { title: 'Library' } },
    {
      path: '/practices',
      component: () => import('./features/practices/PracticesPage.vue'),
      meta: { title: 'Practices' },
    },
    {
      path: '/reference/:part(pt|superheat|faults)?/:id([a-z_]+)?',
      component: () => import('./features/reference/ReferencePage.vue'),
      meta: { title: 'Reference' },
    },
    {
      path: '/projector',
      component: () => import('./features/projector/ProjectorPage.vue'),
      meta: { title: 'Projector', bare: true },
    },
    { path: '/rigs', component: () => import('./features/rigs/RigsPage.vue'), meta: { title: 'Rigs' } },
    {
      path: '/password',
      component: () => import('./features/session/YourAccount.vue'),
      meta: { title: 'Your account' },
    },
    {
      path: '/platforms',
      component: () => import('./features/platforms/PlatformsPage.vue'),
      meta: { title: 'Learning platforms' },
    },
    {
      path: '/platform/join',
      component: () => import('./features/platforms/JoinPage.vue'),
      meta: { title: 'Link your account' },
    },
    {
      path: '/welcome',
      component: () => import('./features/session/WelcomePage.vue'),
      meta: { title: 'Welcome', bare: true },
    },
    {
      path: '/refrigerant',
      component: () => import('./features/refrigerant/RefrigerantPage.vue'),
      meta: { title: 'Refrigerant' },
    },
    { path: '/rigs/:id(\\d+)', component: () => import('./features/rigs/RigPage.vue'), meta: { title: 'Rig' } },
    { path: '/play/:id(\\d+)', component: () => import('./features/screen/PlayPage.vue'), meta: { title: 'Call' } },
    {
      path: '/lesson/:id(\\d+)',
      component: () => import('./features/screen/LessonPage.vue'),
      meta: { title: 'Lesson' },
    },
    { path: '/vote', component: () => import('./features/screen/VotePage.vue'), meta: { title: 'Vote' } },
    {
      path: '/class-screen',
      component: () => import('./features/screen/LessonWall.vue'),
      meta: { title: 'Class screen', bare: true },
    },
    {
      path: '/screen/:id(\\d+)',
      component: () => import('./features/screen/ReviewPage.vue'),
      meta: { title: 'Path' },
    },
    { path: '/lab', component: () => import('./features/lab/LabMine.vue'), meta: { title: 'Lab' } },
    { path: '/lab/:id(\\d+)', component: () => import('./features/lab/LabPage.vue'), meta: { title: 'Lab session' } },
    { path: '/courses', component: () => import('./features/courses/CoursesPage.vue'), meta: { title: 'Courses' } },
    { path: '/classes', component: () => import('./features/classes/ClassesPage.vue'), meta: { title: 'Classes' } },
    {
      path: '/classes/:id(\\d+)/results',
      component: () => import('./features/results/ClassResultsPage.vue'),
      meta: { title: 'Class results' },
    },
    {
      path: '/apprentices/:id(\\d+)',
      component: () => import('./features/results/ApprenticePage.vue'),
      meta: { title: 'Apprentice' },
    },
    { path: '/accounts', component: () => import('./features/accounts/AccountsPage.vue'), meta: { title: 'Accounts' } },
    {
      path: '/feedback/:code',
      component: () => import('./features/marking/FeedbackPage.vue'),
      meta: { title: 'Feedback' },
    },
    { path: '/mine', component: () => import('./features/mine/MinePage.vue'), meta: { title: 'Your papers' } },
    { path: '/sheets', component: () => import('./features/sheets/SheetsPage.vue'), meta: { title: 'Sheets' } },
    { path: '/sheets/:id(\\d+)', component: () => import('./features/sheets/SheetPage.vue'), meta: { title: 'Sheet' } },
    {
      path: '/marking/:code?',
      component: () => import('./features/marking/MarkingPage.vue'),
      meta: { title: 'Marking' },
    },
    { path: '/:rest(.*)*', component: () => import('./shared/NotFound.vue'), meta: { title: 'Not here' } },
  ],
})
router.afterEach((to) => called(String(to.meta.title ?? '')))
