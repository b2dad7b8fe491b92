/** The types that a field with a column of its own can have, by their names in the API. */
export const FIELD_TYPES = [
  'text',
  'number',
  'money',
  'duration',
  'choice',
  'person',
  'yes/no',
  'date',
  'moment',
  'time of day',
  'tags',
]
