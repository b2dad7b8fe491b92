import type { Profile } from '@/api/client'

/** What each role is called. */
export const ROLES: Record<Profile['role'], string> = {
  ADMINISTRATOR: 'administrator',
  MEMBER: 'member',
  AUDITOR: 'auditor',
}

/** What each role may do, in a sentence. */
export const ROLE_SENTENCES: Record<Profile['role'], string> = {
  ADMINISTRATOR: 'manages people, registers and everybody’s views',
  MEMBER: 'reads what is open to them, saves and shares views',
  AUDITOR: 'reads everything, changes nothing',
}
