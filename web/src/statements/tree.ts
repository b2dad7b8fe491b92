/**
 * Where the parts of a condition tree stand, and how to put one in another's place. Paths are JSON Pointers as the server
 * gives them (`/all/1/any/0`, `/all/2/off`, empty for the root). What a tree means is the server's business alone.
 */
export type Node = Record<string, unknown>
export type GroupKind = 'all' | 'any' | 'none'

export const EVERYTHING: Node = { all: [] }

function steps(path: string): string[] {
  return path === '' ? [] : path.slice(1).split('/')
}

/** The part at a path. */
export function at(tree: Node, path: string): Node {
  return steps(path).reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], tree) as Node
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
