import { createRouter, createWebHistory } from 'vue-router'
import { whenPasswordIsDue, whenSignedOut } from '@/api/client'
import { useSession } from '@/people/session'

export const router = createRouter({
  history: createWebHistory(),
  // Every sign that a server or a mail program could stumble over is escaped: { } of a blank, quotes of a text.
  stringifyQuery: (query) => {
    const search = new URLSearchParams()
    for (const [name, value] of Object.entries(query ?? {})) {
      for (const one of [value].flat()) {
        if (one !== undefined) search.append(name, one === null ? '' : String(one))
      }
    }
    // Those that lists and times are read by stay readable; they mean nothing else in an address.
    return search.toString().replaceAll('%2C', ',').replaceAll('%3A', ':')
  },
  routes: [
    { path: '/', redirect: '/registers' },
    { path: '/sign-in', name: 'sign-in', component: () => import('@/people/SignInPage.vue') },
    {
      path: '/',
      component: () => import('@/views/DeskPage.vue'),
      children: [
        { path: 'registers', name: 'registers', component: () => import('@/views/FirstPage.vue') },
        { path: 'registers/:key', name: 'register', component: () => import('@/views/QuestionPage.vue') },
        { path: 'views', name: 'views', component: () => import('@/views/AllViewsPage.vue') },
        { path: 'views/:id(\\d+)', name: 'view', component: () => import('@/views/QuestionPage.vue') },
        { path: 'people/:tab(teams|known|file|trail)?', component: () => import('@/people/PeoplePage.vue') },
        { path: 'account', name: 'account', component: () => import('@/people/AccountPage.vue') },
        {
          path: 'organisation',
          name: 'organisation',
          component: () => import('@/organisation/OrganisationPage.vue'),
        },
        { path: 'jobs', name: 'jobs', component: () => import('@/jobs/JobsPage.vue') },
        { path: 'setup', name: 'setup', component: () => import('@/setup/SetupGuide.vue') },
        { path: 'catalogue', name: 'catalogue', component: () => import('@/registers/CataloguePage.vue') },
        { path: 'catalogue/import', component: () => import('@/imports/ImportPage.vue') },
        { path: 'catalogue/link/:key?', component: () => import('@/registers/LinkPage.vue') },
        { path: 'catalogue/attach', component: () => import('@/registers/AttachPage.vue') },
        { path: 'catalogue/combine/:key?', component: () => import('@/registers/CombinePage.vue') },
        { path: 'catalogue/:key', component: () => import('@/registers/RegisterPage.vue') },
        { path: ':rest(.*)*', name: 'nowhere', component: () => import('@/views/NowherePage.vue') },
      ],
    },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  await session.load()
  if (!session.current && to.name !== 'sign-in') {
    return { name: 'sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } }
  }
  if (session.current && to.name === 'sign-in') return typeof to.query.to === 'string' ? to.query.to : '/'
  // A password that somebody else chose is changed before anything else.
  if (session.current?.mustChangePassword && to.name !== 'account' && to.name !== 'sign-in') {
    return { name: 'account' }
  }
})

whenSignedOut(() => {
  const session = useSession()
  session.forget()
  const here = router.currentRoute.value
  if (here.name !== 'sign-in') void router.push({ name: 'sign-in', query: { to: here.fullPath } })
})

whenPasswordIsDue(() => {
  const session = useSession()
  void session.load(true).then(() => router.push({ name: 'account' }))
})
