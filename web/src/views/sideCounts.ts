import { api, data, type Count } from '@/api/client'
import type { TotalsTold } from '@/totals/sheet'

/** The longest, in milliseconds, that counts wait for the page to have asked what it shows itself. */
const LATEST = 500
/** The most views of one call. */
const MOST = 200

/** What was counted; views and registers that take longer are to be counted each by itself. */
export interface SideCounts {
  views: Record<string, Count>
  /** what stands beside pinned views in the place of their number */
  figures: Record<string, TotalsTold>
  registers: Record<string, number>
  later: { views: string[]; registers: string[] }
  failed: string[]
}

/** Once the page has nothing else to do: rows are on their way before numbers beside them. */
const whenIdle = (go: () => void) =>
  'requestIdleCallback' in window ? requestIdleCallback(go, { timeout: LATEST }) : setTimeout(go)

let wanted = { views: new Set<string>(), registers: new Set<string>() }
let gathering: Promise<SideCounts> | undefined

/** Counts views and registers; what several want at about the same time is one call. */
export function sideCounts(views: string[], registers: string[]): Promise<SideCounts> {
  views.forEach((v) => wanted.views.add(v))
  registers.forEach((r) => wanted.registers.add(r))
  gathering ??= new Promise<void>(whenIdle).then(() => {
    const asked = { views: [...wanted.views].slice(0, MOST), registers: [...wanted.registers] }
    const left = [...wanted.views].slice(MOST)
    wanted = { views: new Set(), registers: new Set() }
    gathering = undefined
    return (data(api.POST('/api/counts', { body: asked })) as Promise<SideCounts>).then((found) => ({
      ...found,
      later: { ...found.later, views: [...found.later.views, ...left] },
    }))
  })
  return gathering
}
