import type { InjectionKey, Ref } from 'vue'
import type { Finding, Mend, PartCount, Register } from '@/api/client'
import * as trees from './tree'
import type { Change, GroupKind, Node } from './tree'

/** What is being written at the moment: a part that is there, or a new one beside it. */
export interface Opened {
  path: string
  /** the part is new and joins the part or group at the path in this way */
  adds?: GroupKind
  /** the field that a new part is about, where that is known */
  field?: string
}

/** What the parts of the statement ask of the page they stand on. */
export interface Desk {
  /** the paths of the parts that whoever manages the view has locked for its readers */
  locked: Readonly<Ref<Set<string>>>
  register: Readonly<Ref<Register>>
  opened: Ref<Opened | undefined>
  asOf: Readonly<Ref<string | undefined>>
  /** the zone whose days count */
  zone: Readonly<Ref<string>>
  /** what the checker noticed, by the path it is about */
  findings: Readonly<Ref<Map<string, Finding[]>>>
  /** takes a mend's whole question */
  mend(mend: Mend): void
  /** what each part does, by its path; empty until it is known */
  parts: Readonly<Ref<Map<string, PartCount>>>
  /** how many records match, once that is known exactly */
  matching: Readonly<Ref<number | undefined>>
  open(opened: Opened): void
  close(): void
  apply(node: Node): void
  /** adds criteria to the outermost “all of”, in one step */
  take(nodes: Node[]): void
  toggleOff(path: string): void
  remove(path: string): void
  regroup(path: string, kind: GroupKind): void
  joinNext(path: string): void
  move(path: string, by: -1 | 1): void
  /** puts a part into the group after it, or out of its own */
  moveIn(path: string): void
  moveOut(path: string): void
  duplicate(path: string): void
  wrap(path: string, kind: GroupKind): void
  unwrap(path: string): void
  /** the part that is being dragged */
  dragged: Ref<string | undefined>
  /** puts the dragged part right after another one, or before it */
  drop(path: string, before: boolean): void
}

export const DESK: InjectionKey<Desk> = Symbol('desk')

/** What a change rests on, and what is said where it cannot be made. */
export interface Resting {
  /** the parts it is about; where they are others by the time it is its turn, it is not made */
  paths?: string[]
  /** the statement that these were pointed at in; now, when it is absent */
  seen?: Node
  otherwise?: string
}

export const CHANGED_MEANWHILE = 'The statement has changed there meanwhile. Look at it, and do it again.'

/** Whether parts that somebody pointed at are others by now. */
export const haveChanged = (seen: Node, now: Node, paths: string[] = []) =>
  paths.some((path) => trees.textAt(seen, path) !== trees.textAt(now, path))

/** Puts what was written into a statement, in the place that it was opened for in the one that was seen. */
export function placing({ path, adds }: Opened, node: Node, seen: Node): [Change, Resting] {
  // What joins the whole goes with any statement.
  const paths = adds === 'all' && path === '' ? [] : [path]
  return [
    (now) => (adds ? trees.add(now, path, adds, node) : trees.replace(now, path, node)),
    { paths, seen },
  ]
}

/** What can be done with the parts of a statement, made of one way to change it. */
export function actsOn(
  change: (make: Change, resting?: Resting) => Promise<void>,
  dragged: Ref<string | undefined>,
) {
  const part = (path: string, make: Change, otherwise?: string) =>
    void change(make, { paths: [path], otherwise })
  return {
    take: (nodes: Node[]) =>
      void change((now) => nodes.reduce((all, node) => trees.add(all, '', 'all', node), now)),
    toggleOff: (path: string) => part(path, (now) => trees.toggleOff(now, path)),
    remove: (path: string) => part(path, (now) => trees.remove(now, path)),
    regroup: (path: string, kind: GroupKind) => part(path, (now) => trees.regroup(now, path, kind)),
    joinNext: (path: string) => part(path, (now) => trees.joinNext(now, path, 'any')),
    move: (path: string, by: -1 | 1) => part(path, (now) => trees.move(now, path, by)),
    moveIn: (path: string) => part(path, (now) => trees.moveIn(now, path)),
    moveOut: (path: string) => part(path, (now) => trees.moveOut(now, path)),
    duplicate: (path: string) => part(path, (now) => trees.duplicate(now, path)),
    wrap: (path: string, kind: GroupKind) => part(path, (now) => trees.wrap(now, path, kind)),
    unwrap: (path: string) =>
      part(
        path,
        (now) => trees.unwrap(now, path),
        'The parts of this group would ask something else without it.',
      ),
    dragged,
    drop: (path: string, before: boolean) => {
      const from = dragged.value
      dragged.value = undefined
      if (from !== undefined)
        void change((now) => trees.moveTo(now, from, path, before), { paths: [from, path] })
    },
  }
}

/** What the checker noticed, by the path it is about. */
export function byPath(findings: Finding[] = []): Map<string, Finding[]> {
  const found = new Map<string, Finding[]>()
  for (const f of findings) found.set(f.path, [...(found.get(f.path) ?? []), f])
  return found
}
