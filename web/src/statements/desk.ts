import type { InjectionKey, Ref } from 'vue'
import type { Finding, Mend, PartCount, Register } from '@/api/client'
import type { GroupKind, Node } from './tree'

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
