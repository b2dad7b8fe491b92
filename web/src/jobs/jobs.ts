import type { Jobs } from '@/api/client'

export type Job = Jobs['asked'][number]
export type Recurring = Jobs['recurring'][number]

/** How far a job is, in words. */
export function stateWords(job: Pick<Job, 'state' | 'phase' | 'share' | 'message' | 'stopping'>): string {
  switch (job.state) {
    case 'WAITING':
      return 'waits for a server'
    case 'RUNNING': {
      if (job.stopping) return 'is being stopped'
      const share = job.share > 0 ? `: ${Math.floor(job.share * 100)} %` : ''
      return (job.phase || 'goes on') + share
    }
    case 'DONE':
      return job.message ? `done: ${job.message}` : 'done'
    case 'FAILED':
      return `failed: ${job.message}`
    case 'STOPPED':
      return 'stopped; nothing was written'
  }
}

/** How often something is done. */
export function every(seconds: number): string {
  for (const [size, one, many] of [
    [86_400, 'day', 'days'],
    [3_600, 'hour', 'hours'],
    [60, 'minute', 'minutes'],
  ] as const) {
    if (seconds % size === 0) return seconds === size ? `every ${one}` : `every ${seconds / size} ${many}`
  }
  return `every ${seconds} seconds`
}

/** How long something took; nothing where it has not ended. */
export function howLong(from?: string | null, to?: string | null): string {
  if (!from || !to) return ''
  const millis = Date.parse(to) - Date.parse(from)
  if (millis < 1_000) return `${Math.max(1, Math.round(millis))} ms`
  if (millis < 59_950) return `${(millis / 1_000).toFixed(1)} s`
  const seconds = Math.round(millis / 1_000)
  return `${Math.floor(seconds / 60)} min ${seconds % 60} s`
}

/** What came of the last round. */
export function outcome(job: Pick<Recurring, 'last'>): string {
  if (!job.last) return ''
  if (job.last.failed) return 'failed; the log of the server says why'
  return job.last.message || 'done'
}
