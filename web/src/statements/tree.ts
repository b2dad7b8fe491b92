/**
 * Where the parts of a condition tree stand, and how to put one in another's place. Paths are JSON Pointers as the server
 * gives them (`/all/1/any/0`, `/all/2/off`, empty for the root). What a tree means is the server's business alone.
 */
export type Node = Record<string, unknown>
export type GroupKind = 'all' | 'any' | 'none'
/** Makes another tree of the one there is; nothing where that cannot be. */
export type Change = (tree: Node) => Node | undefined

export const EVERYTHING: Node = { all: [] }

function steps(path: string): string[] {
  return path === '' ? [] : path.slice(1).split('/')
}

/** The part at a path. */
export function at(tree: Node, path: string): Node {
  return steps(path).reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], tree) as Node
}

/** The registers that are asked about beside the one that the tree is over: in whose records values are looked for. */
export function registersIn(tree: unknown): string[] {
  if (Array.isArray(tree)) return tree.flatMap(registersIn)
  if (typeof tree !== 'object' || tree === null) return []
  const node = tree as Node
  const own = typeof node.register === 'string' ? [node.register] : []
  return [...own, ...Object.values(node).flatMap(registersIn)]
}

/** The part at a path as text, to be held against another; nothing where the path leads nowhere. */
export function textAt(tree: Node, path: string): string | undefined {
  try {
    return JSON.stringify(at(tree, path))
  } catch {
    return undefined
  }
}

/** The tree with another part at a path. */
export function replace(tree: Node, path: string, part: Node): Node {
  if (path === '') return part
  const copy = structuredClone(tree)
  const all = steps(path)
  const last = all.pop() as string
  const parent = all.reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], copy)
  ;(parent as Record<string, unknown>)[last] = part
  return copy
}

/** The tree without the part at a path; what held only that part goes with it. */
export function remove(tree: Node, path: string): Node {
  if (path === '') return EVERYTHING
  const all = steps(path)
  const last = all.pop() as string
  if (last === 'off') return remove(tree, parentPath(path, 1))
  const copy = structuredClone(tree)
  const list = all.reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], copy) as Node[]
  list.splice(Number(last), 1)
  if (list.length === 0 && all.length > 1) return remove(tree, parentPath(path, 2))
  return copy
}

/** The tree with one more part, beside the others of the group at a path. */
export function add(tree: Node, path: string, kind: GroupKind, part: Node): Node {
  const node = at(tree, path)
  const own = kindOf(node)
  if (own === kind) return replace(tree, path, { [kind]: [...(node[kind] as Node[]), part] })
  if (own === 'all' && (node.all as Node[]).length === 0) return replace(tree, path, { [kind]: [part] })
  return replace(tree, path, { [kind]: [node, part] })
}

/** The tree with a part switched off, or on again. */
export function toggleOff(tree: Node, path: string): Node {
  const node = at(tree, path)
  if ('off' in node) return replace(tree, path, node.off as Node)
  if (path.endsWith('/off')) return replace(tree, parentPath(path, 1), node)
  return replace(tree, path, { off: node })
}

/** The tree with a group of another kind at a path. */
export function regroup(tree: Node, path: string, kind: GroupKind): Node {
  const node = at(tree, path)
  const own = kindOf(node)
  return own ? replace(tree, path, { [kind]: node[own] }) : replace(tree, path, { [kind]: [node] })
}

/** The tree with a part and the one after it drawn together in a group, or nothing when none follows. */
export function joinNext(tree: Node, path: string, kind: GroupKind): Node | undefined {
  const all = steps(path)
  const index = Number(all.pop())
  const listPath = '/' + all.join('/')
  const list = all.reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], tree)
  if (!Array.isArray(list) || index + 1 >= list.length) return undefined
  const joined = [...(list as Node[])]
  const group = { [kind]: [list[index], list[index + 1]] }
  joined.splice(index, 2, group)
  return replace(tree, listPath, joined as unknown as Node)
}

/** The tree with a part one place earlier (-1) or later (1) in its group, or nothing at the group's end. */
export function move(tree: Node, path: string, by: -1 | 1): Node | undefined {
  const own = path.endsWith('/off') ? parentPath(path, 1) : path
  const all = steps(own)
  const index = Number(all.pop())
  const listPath = '/' + all.join('/')
  const list = all.reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], tree)
  if (!Array.isArray(list) || index + by < 0 || index + by >= list.length) return undefined
  const moved = [...(list as Node[])]
  const [part] = moved.splice(index, 1)
  moved.splice(index + by, 0, part as Node)
  return replace(tree, listPath, moved as unknown as Node)
}

function kindOf(node: Node): GroupKind | undefined {
  return (['all', 'any', 'none'] as const).find((kind) => kind in node)
}

function parentPath(path: string, levels: number): string {
  return path.split('/').slice(0, -levels).join('/')
}

/** The part as its group holds it: switched off with what switches it off. */
function held(path: string): string {
  return path.endsWith('/off') ? parentPath(path, 1) : path
}

/** The tree with parts put in after (or before) the one at a path; at the root they join it. */
function insert(tree: Node, path: string, parts: Node[], before = false): Node {
  if (path === '') return { all: before ? [...parts, tree] : [tree, ...parts] }
  const all = steps(path)
  const index = Number(all.pop())
  const listPath = '/' + all.join('/')
  const list = [...(at(tree, listPath) as unknown as Node[])]
  list.splice(before ? index : index + 1, 0, ...parts)
  return replace(tree, listPath, list as unknown as Node)
}

/** The tree with a copy of a part right after it. */
export function duplicate(tree: Node, path: string): Node {
  const own = held(path)
  return insert(tree, own, [structuredClone(at(tree, own))])
}

/** The tree with a part in a group of its own. */
export function wrap(tree: Node, path: string, kind: GroupKind): Node {
  const own = held(path)
  return replace(tree, own, { [kind]: [at(tree, own)] })
}

/** The tree with the parts of a group in the group's place, or nothing where that would ask something else. */
export function unwrap(tree: Node, path: string): Node | undefined {
  const group = at(tree, path)
  const kind = kindOf(group)
  if (!kind || kind === 'none') return undefined
  const parts = group[kind] as Node[]
  if (parts.length === 1) return replace(tree, path, parts[0] as Node)
  if (path === '' || !path.includes('/')) return undefined
  const outer = steps(path).at(-2)
  // Parts of "all of" may stand in an "all of", those of "any of" beside other alternatives.
  if (outer !== kind && !(outer === 'none' && kind === 'any')) return undefined
  const opened = insert(tree, path, parts)
  return remove(opened, path)
}

/** The tree with a part taken from its place and put right after (or before) another one, or nothing where it cannot go. */
export function moveTo(tree: Node, from: string, to: string, before = false): Node | undefined {
  const [source, target] = [held(from), held(to)]
  if (source === '' || source === target || target.startsWith(source + '/')) return undefined
  const part = at(tree, source)
  const moved = insert(replace(tree, source, GAP), target, [part], before)
  return remove(moved, pathOfGap(moved)!)
}

/** Stands where a part was taken from until it stands elsewhere; other paths hold good that long. */
const GAP: Node = { gap: true }

function pathOfGap(tree: unknown, path = ''): string | undefined {
  if (typeof tree !== 'object' || tree === null) return undefined
  if ('gap' in tree) return path
  for (const [key, value] of Object.entries(tree)) {
    const found = pathOfGap(value, `${path}/${key}`)
    if (found !== undefined) return found
  }
  return undefined
}

/** The tree with a part out of its group and right behind it, or nothing where it is in none. */
export function moveOut(tree: Node, path: string): Node | undefined {
  const group = parentPath(held(path), 2)
  return group === '' || held(path) === '' ? undefined : moveTo(tree, path, held(group))
}

/** The tree with a part as the last one of the group right after it, or nothing where none follows. */
export function moveIn(tree: Node, path: string): Node | undefined {
  const own = held(path)
  const all = steps(own)
  if (!all.length) return undefined
  const next = '/' + [...all.slice(0, -1), String(Number(all.at(-1)) + 1)].join('/')
  const follower = at(tree, next) as Node | undefined
  const kind = follower && kindOf(follower)
  if (!follower || !kind) return undefined
  const parts = follower[kind] as Node[]
  return moveTo(tree, own, `${next}/${kind}/${parts.length - 1}`)
}

/** Where a part can be put from where it stands: one place up or down in its group, into the group after it, out of its own. */
export function places(
  tree: Node,
  path: string,
): { up: boolean; down: boolean; into: boolean; out: boolean } {
  const own = held(path)
  const all = steps(own)
  const index = Number(all.at(-1))
  const list = all
    .slice(0, -1)
    .reduce<unknown>((node, step) => (node as Record<string, unknown>)?.[step], tree)
  if (!all.length || !Array.isArray(list)) return { up: false, down: false, into: false, out: false }
  const follower = list[index + 1] as Node | undefined
  return {
    up: index > 0,
    down: index < list.length - 1,
    into: follower !== undefined && kindOf(follower) !== undefined,
    out: parentPath(own, 2) !== '',
  }
}
