import { describe, expect, it } from 'vitest'
import { sampleFile } from './sample'

describe('the sample', () => {
  it('has a name, and rows around the day, the same every time', async () => {
    const text = await sampleFile('2026-11-23').text()
    expect(await sampleFile('2026-11-23').text()).toBe(text)
    const [head, ...rows] = text.trim().split('\r\n')
    expect(rows).toHaveLength(160)
    const columns = head!.split(',').length
    const cells = rows.map((r) => r.split(','))
    expect(cells.every((r) => r.length === columns)).toBe(true)
    expect(cells.at(-1)![4]).toBe('2026-11-23')
    const open = cells.filter((r) => !r[6])
    expect(open.length).toBeGreaterThan(30)
    expect(open.some((r) => r[5]! < '2026-11-23')).toBe(true)
    expect(cells.filter((r) => r[6]).every((r) => r[6]! <= '2026-11-23' && r[6]! > r[4]!)).toBe(true)
  })
})
