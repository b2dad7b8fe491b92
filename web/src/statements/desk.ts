import type { InjectionKey, Ref } from 'vue'
import type { Finding, Mend, PartCount, Register } from '@/api/client'
import type { GroupKind, Node } from './tree'

/** What is being written at the moment: a part that is there, or a new one beside it. */
export interface Opened {
  path: string
  /** the part is new and joins the part or group at the path in this way */
  adds?: GroupKind
}

/** What the parts of the statement ask of the page they stand on. */
export interface Desk {
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
  toggleOff(path: string): void
  remove(path: string): void
  regroup(path: string, kind: GroupKind): void
  joinNext(path: string): void
  move(path: string, by: -1 | 1): void
}

export const DESK: InjectionKey<Desk> = Symbol('desk')
