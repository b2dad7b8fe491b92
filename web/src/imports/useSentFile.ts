import { onBeforeUnmount, ref, shallowRef } from 'vue'
import { api, data, ownHeader, sentence, type FileLook } from '@/api/client'

/** How a file is to be read, as far as somebody says so; what is absent is found out. */
export interface Reading {
  encoding?: string | null
  delimiter?: string | null
  sheet?: string | null
  /** the line of the row that names the columns; 0 for none */
  namesAt?: number | null
}

/** How often it is asked how far a reading is, in milliseconds. */
const ASK_EVERY = 350

/** A random UUID (RFC 9562, version 4), also where a page did not come by a secure connection. */
function uuid(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = (bytes[6]! & 0x0f) | 0x40
  bytes[8] = (bytes[8]! & 0x3f) | 0x80
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

/**
 * A file on its way to the server, and what the server finds in it. Sending and reading say how far they are, as a share from
 * 0 to 1, and can be stopped.
 *
 * @param taken is called with what was found
 */
export function useSentFile(taken: (look: FileLook) => void) {
  const look = shallowRef<FileLook>()
  const trouble = ref('')
  const sending = ref<number>()
  const reading = ref<number>()
  let token = ''
  let request: XMLHttpRequest | undefined
  let stopping: AbortController | undefined
  let timer = 0

  function ask() {
    timer = window.setTimeout(async () => {
      try {
        const { share } = await data(api.GET('/api/files/{token}', { params: { path: { token } } }))
        if (reading.value !== undefined) reading.value = share
      } catch {
        // The file is not there yet.
      }
      if (reading.value !== undefined) ask()
    }, ASK_EVERY)
  }

  function begin() {
    reading.value = 0
    ask()
  }

  function end() {
    window.clearTimeout(timer)
    sending.value = reading.value = undefined
  }

  function found(fresh: FileLook) {
    look.value = fresh
    taken(fresh)
  }

  /** Sends a file; a plain request, because only it tells how far it is. */
  function send(file: File) {
    trouble.value = ''
    look.value = undefined
    sending.value = 0
    token = uuid()
    const sent = (request = new XMLHttpRequest())
    sent.open('POST', `/api/files?name=${encodeURIComponent(file.name)}&token=${token}`)
    sent.setRequestHeader('Content-Type', 'application/octet-stream')
    for (const [name, value] of Object.entries(ownHeader())) sent.setRequestHeader(name, value)
    sent.upload.onprogress = (e) => (sending.value = e.total ? e.loaded / e.total : 0)
    sent.upload.onload = () => {
      sending.value = undefined
      begin()
    }
    sent.onloadend = () => {
      // Another file was sent meanwhile.
      if (sent !== request) return
      end()
      if (sent.status === 0) {
        if (!trouble.value) trouble.value = 'The file did not arrive. Check the connection and send it again.'
        return
      }
      const body = JSON.parse(sent.responseText || '{}')
      if (sent.status === 201) found(body as FileLook)
      else trouble.value = body.detail ?? 'The file could not be read.'
    }
    sent.send(file)
  }

  /** Has the file read in another way; when that is stopped, what was found before stays. */
  async function lookAgain(change: Reading) {
    const now = look.value!
    trouble.value = ''
    stopping = new AbortController()
    begin()
    try {
      const { encoding, delimiter, sheet, namesAt } = now
      found(
        await data(
          api.POST('/api/files/{token}/look', {
            params: { path: { token } },
            body: { encoding, delimiter, sheet, namesAt, ...change },
            signal: stopping.signal,
          }),
        ),
      )
    } catch (e) {
      if (!stopping.signal.aborted) trouble.value = sentence(e)
    } finally {
      stopping = undefined
      end()
    }
  }

  /** Stops what is going on. */
  async function stop() {
    if (stopping) {
      stopping.abort()
      await api.DELETE('/api/files/{token}/look', { params: { path: { token } } }).catch(() => {})
      return
    }
    trouble.value = 'Stopped. Nothing was imported.'
    request?.abort()
    end()
    await api.DELETE('/api/files/{token}', { params: { path: { token } } }).catch(() => {})
  }

  onBeforeUnmount(() => {
    request?.abort()
    stopping?.abort()
    window.clearTimeout(timer)
  })

  return { look, trouble, sending, reading, send, lookAgain, stop }
}
