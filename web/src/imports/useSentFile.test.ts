import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { mount } from '@vue/test-utils'
import { defineComponent } from 'vue'
import type { FileLook } from '@/api/client'
import { StandInRequest } from '@/testing/request'
import { settled, standIn, type Call } from '@/testing/server'
import { useSentFile } from './useSentFile'

const LOOK = {
  token: 't',
  name: 'a.csv',
  namesAt: 1,
  encoding: 'UTF-8',
  delimiter: ',',
  sheet: null,
} as FileLook

describe('a file that is sent', () => {
  const server = standIn()
  let sent: ReturnType<typeof useSentFile>
  let found: FileLook[]

  beforeEach(() => {
    vi.stubGlobal('XMLHttpRequest', StandInRequest)
    found = []
    mount(defineComponent({ setup: () => ((sent = useSentFile((l) => found.push(l))), () => null) }))
    sent.send(new File(['x'], 'dues & fees.csv'))
  })
  afterEach(() => vi.unstubAllGlobals())

  it('goes with a token of its own, and says how far it is', () => {
    expect(StandInRequest.last.url).toMatch(
      /^\/api\/files\?name=dues%20%26%20fees\.csv&token=[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/,
    )
    StandInRequest.last.upload.onprogress!({ loaded: 1, total: 4 })
    expect(sent.sending.value).toBe(0.25)
    StandInRequest.last.upload.onload!()
    expect(sent.sending.value).toBeUndefined()
    expect(sent.reading.value).toBe(0)
    StandInRequest.last.answer(201, LOOK)
    expect(sent.reading.value).toBeUndefined()
    expect(found).toEqual([LOOK])
  })

  it('is forgotten by the server when it is stopped', async () => {
    server.on('DELETE', '/api/files/*', undefined)
    StandInRequest.last.upload.onload!()
    await sent.stop()
    expect(StandInRequest.last.aborted).toBe(true)
    expect(sent.trouble.value).toBe('Stopped. Nothing was imported.')
    expect(sent.reading.value).toBeUndefined()
    expect(server.calls.map((c) => c.method)).toEqual(['DELETE'])
  })

  it('says why it was refused, and when it did not arrive', () => {
    StandInRequest.last.answer(422, { detail: 'This file has no rows.' })
    expect(sent.trouble.value).toBe('This file has no rows.')
    sent.send(new File(['x'], 'b.csv'))
    StandInRequest.last.onloadend()
    expect(sent.trouble.value).toContain('did not arrive')
  })

  it('is another one when another was sent meanwhile', () => {
    const first = StandInRequest.last
    sent.send(new File(['x'], 'b.csv'))
    first.answer(201, LOOK)
    expect(found).toEqual([])
  })

  it('is read another way, with what is not changed as it was', async () => {
    StandInRequest.last.answer(201, LOOK)
    server.on('POST', '/api/files/*/look', (call: Call) => ({ ...LOOK, ...(call.body as object) }))
    await sent.lookAgain({ namesAt: 3 })
    expect(server.calls.at(-1)!.body).toEqual({ encoding: 'UTF-8', delimiter: ',', sheet: null, namesAt: 3 })
    expect(sent.look.value!.namesAt).toBe(3)
  })

  it('stays as it was read when reading it another way is stopped', async () => {
    StandInRequest.last.answer(201, LOOK)
    server.on('DELETE', '/api/files/*/look', undefined)
    server.hold('/api/files/' + /token=(.*)/.exec(StandInRequest.last.url)![1] + '/look')
    const again = sent.lookAgain({ namesAt: 3 })
    await settled()
    void sent.stop()
    await again
    server.letGo()
    await settled()
    expect(server.calls.at(-1)!.method).toBe('DELETE')
    expect(sent.look.value).toEqual(LOOK)
    expect(sent.trouble.value).toBe('')
  })
})
