/** The package types its promises apart from where they are. */
declare module 'aedes-persistence/asyncPersistence.js' {
  import type MemoryPersistence from 'aedes-persistence/types/asyncPersistence.js'
  const persistence: typeof MemoryPersistence
  export default persistence
}
