import createClient, { type Middleware } from 'openapi-fetch'
import { hasLongNumbers, readExactly } from '@/platform/exact'
import { DEFINITIONS, hear } from '@/platform/definitions'
import { plainKey } from '@/registers/added'
import { patientFetch } from '@/platform/outage'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type View = Schemas['View']
export type Share = Schemas['Share']
export type Step = Schemas['Step']
export type Session = Schemas['Session']
export type Desk = Schemas['Desk']
export type ViewPage = Schemas['ViewPage']
export type ListArrangement = Schemas['ListArrangement']
export type Profile = Schemas['Profile']
export type TeamName = Schemas['TeamName']
export type Register = Schemas['RegisterDescription']
export type RegisterName = Schemas['RegisterName']
export type FieldDescription = Schemas['FieldDescription']
export type FieldUse = Schemas['FieldUse']
export type RemovedField = Schemas['RemovedField']
export type UsingView = Schemas['UsingView']
export type TypePreview = Schemas['TypePreview']
export type Outline = Schemas['Outline']
export type WindowAccount = Schemas['WindowAccount']
export type ReadStatement = Schemas['Read']
export type Finding = Schemas['Finding']
export type Mend = Schemas['Mend']
export type Ask = Schemas['Ask']
export type Edge = Schemas['Edge']
export type Settings = Schemas['Settings']
export type Row = Schemas['ResultRow']
export type Rows = Schemas['ResultPage']
export type OverTime = Schemas['OverTime']
export type Distribution = Schemas['Distribution']
export type ValueCount = Schemas['ValueCount']
export type Count = Schemas['Count']
export type PartCount = Schemas['PartCount']
export type Verdict = Schemas['Verdict']
export type WhyAnswer = Schemas['WhyAnswer']
export type Resolved = Schemas['Resolved']
export type SoughtPart = Schemas['SoughtPart']
export type Repeating = Schemas['Repeating']
export type RegisterNote = Schemas['RegisterNote']
export type RegisterChange = Schemas['RegisterChange']
export type FieldChange = Schemas['FieldChange']
export type Band = Schemas['BandJson']
export type BandReview = Schemas['BandReview']
export type ViewEffect = Schemas['ViewEffect']
export type BandExtent = Schemas['BandExtent']
export type AccessLine = Schemas['AccessLine']
export type FileLook = Schemas['FileLook']
export type FileColumn = Schemas['FileColumn']
export type ImportPlan = Schemas['ImportPlan']
export type ImportRun = Schemas['ShownRun']
export type Jobs = Schemas['JobsOverview']
export type SetupStep = Schemas['SetupStep']
export type WayBackExtent = Schemas['Extent']
export type Attachable = Schemas['Attachable']
export type TableProposal = Schemas['TableProposal']
export type ShapeAnswer = Schemas['ShapeAnswer']
export type LinkedServer = Schemas['Linked']
export type ServerLook = Schemas['Look']
export type Pin = Schemas['Pin']
export type Speed = Schemas['Speed']
export type RecordChange = Schemas['RecordChange']
export type Completions = Schemas['Answer']
export type May = 'LOOK' | 'CHANGE' | 'MANAGE'
export type ViewUse = Schemas['Use']
export type Unsaved = Schemas['Unsaved']
export type Own = Schemas['Own']
export type Difference = Schemas['Difference']
export type EffectiveAccess = Schemas['ViewAccess']
export type Audience = Schemas['Audience']
export type Together = Schemas['Together']
export type Reliance = Schemas['Reliance']
export type TeamList = Schemas['TeamList']
export type PersonEntry = Schemas['PersonEntry']
export type TeamEntry = Schemas['TeamEntry']
export type Attribute = Schemas['Attribute']
export type SignedInPlace = Schemas['SignedInPlace']
export type Token = Schemas['TokenName']
export type Entered = Schemas['Entered']
export type PeopleReport = Schemas['PeopleReport']
export type ViewFileReport = Schemas['ViewFileReport']

/** An RFC 9457 problem from the server, or one of the network's with the code `unreachable`. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details: Record<string, unknown> = {},
  ) {
    super(message)
  }
}

let onSignedOut: () => void = () => {}

/** Says what to do when the server no longer knows who is asking. */
export function whenSignedOut(act: () => void) {
  onSignedOut = act
}

let onPasswordDue: () => void = () => {}

/** Says what to do when the server wants a password of the reader's own first. */
export function whenPasswordIsDue(act: () => void) {
  onPasswordDue = act
}

function cookie(name: string): string | undefined {
  return document.cookie
    .split('; ')
    .find((c) => c.startsWith(name + '='))
    ?.slice(name.length + 1)
}

/** The same answer with every number that a double does not hold as text. */
async function exactly(response: Response): Promise<Response> {
  if (response.status === 204 || !response.headers.get('Content-Type')?.includes('json')) return response
  const text = await response.text()
  return new Response(hasLongNumbers(text) ? JSON.stringify(readExactly(text)) : text, {
    status: response.status,
    headers: { 'Content-Type': 'application/json' },
  })
}

const plumbing: Middleware = {
  async onRequest({ request }) {
    if (request.method !== 'GET') {
      const token = cookie('XSRF-TOKEN')
      if (token) request.headers.set('X-XSRF-TOKEN', decodeURIComponent(token))
    }
    return request
  },
  async onResponse({ response, schemaPath, params }) {
    const definitions = response.headers.get(DEFINITIONS)
    const register = params.path?.key
    if (definitions && typeof register === 'string') hear(plainKey(register), definitions)
    if (response.ok) return exactly(response)
    const body = (await response
      .clone()
      .json()
      .catch(() => ({}))) as Record<string, unknown>
    const problem = new Problem(
      response.status,
      String(body.code ?? 'unknown'),
      String(body.detail ?? 'The server could not answer. Try again in a moment.'),
      body,
    )
    if (problem.code === 'not-signed-in' && schemaPath !== '/api/session' && schemaPath !== '/api/desk')
      onSignedOut()
    if (problem.code === 'change-password') onPasswordDue()
    throw problem
  },
  onError({ error }) {
    if (error instanceof DOMException && error.name === 'AbortError') return error
    return new Problem(0, 'unreachable', 'The server cannot be reached. Check the connection and try again.')
  },
}

/** The header that says a request comes from our own page. */
export function ownHeader(): Record<string, string> {
  const token = cookie('XSRF-TOKEN')
  return token ? { 'X-XSRF-TOKEN': decodeURIComponent(token) } : {}
}

export const api = createClient<paths>({ baseUrl: '/', fetch: patientFetch })
api.use(plumbing)

/** The data of an answer; refusals have been thrown already. */
export async function data<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T
}

/** Whether an error only says that its question was no longer wanted. */
export function isAborted(error: unknown): boolean {
  return error instanceof DOMException && error.name === 'AbortError'
}

/** The sentence of anything thrown. */
export function sentence(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

/**
 * One question at a time: asking anew drops the one before, in the browser and in the database.
 */
export function latest() {
  let controller: AbortController | undefined
  let name = ''
  const stop = () => {
    if (!controller) return
    controller.abort()
    controller = undefined
    void api.DELETE('/api/questions/{name}', { params: { path: { name } } }).catch(() => {})
  }
  return {
    stop,
    async ask<T>(question: (signal: AbortSignal, name: string) => Promise<T>): Promise<T> {
      stop()
      const own = new AbortController()
      controller = own
      name = crypto.randomUUID()
      try {
        const answer = await question(own.signal, name)
        // It came in the moment in which something else was asked.
        if (own.signal.aborted) throw new DOMException('another question was asked', 'AbortError')
        return answer
      } finally {
        if (controller === own) controller = undefined
      }
    },
  }
}
