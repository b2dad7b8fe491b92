/** Which of two readings of a question has a record: this one alone, the one of now alone, or both. */
export type Side = 'here' | 'there' | 'both'
export const SIDES: Side[] = ['here', 'there', 'both']
