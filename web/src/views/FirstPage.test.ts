import { beforeEach, describe, expect, it } from 'vitest'
import { drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import FirstPage from './FirstPage.vue'

const server = standIn()
const START = '/api/registers/defects/start'

beforeEach(() => {
  server.on('GET', '/api/registers', [{ key: 'defects', label: 'Defects' }])
  server.on('GET', START, { view: null })
  server.on('POST', '/api/registers/defects/count', { matching: 3, total: 3, exact: true })
})

describe('the first page', () => {
  it('goes to the first register', async () => {
    const { router } = await drawn(FirstPage)
    expect(router.currentRoute.value.fullPath).toBe('/registers/defects')
  })

  it('goes to the view that the reader’s team begins with', async () => {
    server.on('GET', START, { view: { id: '7' } })
    const { router } = await drawn(FirstPage)
    expect(router.currentRoute.value.fullPath).toBe('/views/7')
  })

  it('takes nobody away who has gone elsewhere meanwhile', async () => {
    server.hold(START)
    const { router } = await drawn(FirstPage)
    // The page that is gone to is still being fetched when the answer comes.
    let arrive = () => {}
    router.beforeResolve(() => new Promise<void>((go) => (arrive = go)))
    const going = router.push('/views/9')
    await settled()
    server.letGo()
    await settled()
    arrive()
    await going
    expect(router.currentRoute.value.fullPath).toBe('/views/9')
  })

  it('says what to do where there are no registers, and what went wrong', async () => {
    server.on('GET', '/api/registers', [])
    expect((await drawn(FirstPage)).page.text()).toContain('There are no registers yet')
    server.on('GET', '/api/registers', refusal(503, 'unavailable', 'The database is not there. Try again.'))
    expect((await drawn(FirstPage)).page.text()).toContain('The database is not there.')
  })
})
