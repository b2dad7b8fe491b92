/*
 * What is wrong with how the page is laid out at the width of the window: what stands beyond its left or right edge, what is cut off
 * without a title that says it whole, what can be pressed but is covered, and words that lie over other words. The records alone are
 * moved sideways. Gives a list of sentences, empty where all is well.
 */
() => {
  const found = []
  const say = (what, e, more = '') =>
    found.push(`${what}: <${e.tagName.toLowerCase()} class="${e.getAttribute('class') ?? ''}"> ${(e.innerText || e.value || e.getAttribute('aria-label') || '').trim().slice(0, 50)} ${more}`)
  const seen = (e) => e.checkVisibility({ opacityProperty: true, visibilityProperty: true })
  const modal = [...document.querySelectorAll('[aria-modal="true"]')].filter(seen).at(-1)
  const all = (selector) => [...(modal ?? document.body).querySelectorAll(selector)].filter(seen)
  const aside = '.hidden-text, .skips, .skip, .cm-editor, svg, [inert], script, style'

  const known = new Map()
  /* Whether it cuts off what stands beyond it, and whether that can be scrolled to. */
  const clipping = (e) => {
    if (!known.has(e)) {
      const { overflowX, overflowY } = getComputedStyle(e)
      const is = overflowX !== 'visible' || overflowY !== 'visible'
      known.set(e, is && { at: e, box: e.getBoundingClientRect(), scrolls: /auto|scroll/.test(overflowX + overflowY) })
    }
    return known.get(e)
  }
  const clippers = (from) => {
    const list = []
    for (let at = from; at; at = at.parentElement) if (clipping(at)) list.push(clipping(at))
    return list
  }

  // ---------------------------------------------------------------- beyond the edges of the window
  for (const e of all('button, a, input, select, textarea, h1, h2, h3, p, label, li, legend, dt, dd')) {
    if (e.closest('.table, table, pre, .scrolls, ' + aside)) continue
    const r = e.getBoundingClientRect()
    if (r.width > 2 && r.height > 2 && (r.right > innerWidth + 1 || r.left < -1))
      say('out of the frame', e, `${Math.round(r.left)} to ${Math.round(r.right)}`)
  }
  if (document.scrollingElement.scrollWidth > innerWidth) found.push(`the page is ${document.scrollingElement.scrollWidth} wide`)
  for (const e of all('[role=dialog], .el-dialog'))
    if (e.getBoundingClientRect().width > innerWidth) say('wider than the window', e)

  // ---------------------------------------------------------------- cut off
  const titled = (e, upTo) => {
    for (let at = e; at && at !== upTo?.parentElement; at = at.parentElement) if (at.title) return true
    return false
  }
  const texts = []
  const walker = document.createTreeWalker(modal ?? document.body, NodeFilter.SHOW_TEXT)
  while (walker.nextNode()) {
    const node = walker.currentNode
    const e = node.parentElement
    if (!node.data.trim() || !e || !seen(e) || e.closest(aside + ', select, textarea, option')) continue
    const range = document.createRange()
    range.selectNodeContents(node)
    const rects = [...range.getClientRects()].filter((r) => r.width > 1 && r.height > 1)
    if (rects.length) texts.push({ e, rects, data: node.data.trim() })
  }
  for (const { e, rects } of texts) {
    const clip = clippers(e)[0]
    if (!clip || clip.scrolls || clip.at === document.body) continue
    const { box } = clip
    const cut = rects.some((r) => r.right > box.right + 2 || r.left < box.left - 2 || r.bottom > box.bottom + r.height / 2)
    const whole = clip.at.closest('a, button, label, th, td, li') ?? clip.at
    if (cut && !titled(e, whole)) say('cut off without a title', e)
  }
  const pen = document.createElement('canvas').getContext('2d')
  for (const e of all('select, input[placeholder]')) {
    const words = e.tagName === 'SELECT' ? e.selectedOptions[0]?.text : e.value || e.placeholder
    const style = getComputedStyle(e)
    pen.font = `${style.fontStyle} ${style.fontWeight} ${style.fontSize} ${style.fontFamily}`
    const room = e.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight)
    if (words && pen.measureText(words).width > room + 2 && !e.title && !(e.tagName === 'INPUT' && e.value))
      say('cut off without a title', e, words)
  }

  // ---------------------------------------------------------------- covered
  const over = '[role=dialog], .el-overlay, .el-popper, [role=menu], .panel, .ground, .outage'
  const inSight = (e, x, y) => {
    if (x < 0 || y < 0 || x >= innerWidth || y >= innerHeight) return false
    for (const { box: r } of clippers(e.parentElement)) if (x < r.left || x > r.right || y < r.top || y > r.bottom) return false
    return true
  }
  const own = (e, top) =>
    e.contains(top) ||
    top.contains(e) ||
    top.closest('label')?.contains(e) ||
    e.closest('.el-select')?.contains(top)
  const scrollers = (e) => {
    const list = []
    for (let at = e.parentElement; at; at = at.parentElement) if (at.scrollHeight > at.clientHeight) list.push(at)
    return list
  }
  for (const e of all('button, a[href], input, select, textarea, [role=radio], [role=tab]')) {
    if (e.closest(aside) || e.closest('table[aria-label="Records"]')) continue
    const r = e.getClientRects()[0]
    if (!r || r.width < 2 || r.height < 2) continue
    const [x, y] = [r.left + r.width / 2, r.top + r.height / 2]
    if (!inSight(e, x, y)) continue
    const top = document.elementFromPoint(x, y)
    if (!top || own(e, top)) continue
    // What has opened over the page covers it on purpose, as an opened list of one's own field does.
    if (top.closest(over) && !e.closest(over)) continue
    // Below a bar that stays it comes out as soon as the keys are in it.
    const scrolled = scrollers(e).map((at) => [at, at.scrollTop, at.scrollLeft])
    e.scrollIntoView({ block: 'nearest' })
    const now = e.getClientRects()[0]
    const again = document.elementFromPoint(now.left + now.width / 2, now.top + now.height / 2)
    scrolled.forEach(([at, y, x]) => at.scrollTo(x, y))
    if (!again || !own(e, again)) say('covered', e, `by <${top.tagName.toLowerCase()} class="${top.getAttribute('class') ?? ''}">`)
  }

  // ---------------------------------------------------------------- words over words
  /* What of it is not cut off by anything that it is in. */
  const within = (e, r) => {
    let { left, top, right, bottom } = r
    for (const { box } of clippers(e)) {
      left = Math.max(left, box.left)
      top = Math.max(top, box.top)
      right = Math.min(right, box.right)
      bottom = Math.min(bottom, box.bottom)
    }
    return { left, top, right, bottom, width: right - left, height: bottom - top }
  }
  const shown = texts.flatMap(({ e, rects, data }) =>
    rects
      .map((r) => within(e, r))
      .filter((r) => {
        if (r.width < 1 || r.height < 1) return false
        const [x, y] = [r.left + r.width / 2, r.top + r.height / 2]
        if (!inSight(e, x, y)) return false
        const top = document.elementFromPoint(x, y)
        return top && (top === e || e.contains(top) || top.contains(e))
      })
      .map((r) => ({ e, r, data })),
  )
  for (let i = 0; i < shown.length; i++)
    for (let j = i + 1; j < shown.length; j++) {
      const [a, b] = [shown[i], shown[j]]
      if (a.e === b.e) continue
      const wide = Math.min(a.r.right, b.r.right) - Math.max(a.r.left, b.r.left)
      const high = Math.min(a.r.bottom, b.r.bottom) - Math.max(a.r.top, b.r.top)
      if (wide <= 3 || high <= Math.min(a.r.height, b.r.height) / 2) continue
      // What has opened over the page hides what is below it, whose ends may be seen beside it.
      if (!a.e.closest(over) === !b.e.closest(over)) say('words over words', a.e, `and ${b.data.slice(0, 30)}`)
    }
  return [...new Set(found)].slice(0, 12)
}
