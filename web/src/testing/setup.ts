// The client takes hold of fetch when it is loaded; through this it reaches whatever a test puts in its place later.
const first = globalThis.fetch
let current = first
const through: typeof fetch = (input, init) => current(input, init)
Object.defineProperty(globalThis, 'fetch', {
  configurable: true,
  get: () => through,
  set: (value: typeof fetch) => (current = value === through ? first : value),
})
