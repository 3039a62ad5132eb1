import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { MemoryStore } from '#engine/sources/memoryStore'

/** A store of memory values that nobody opened: what is read is nothing, what is written makes its file. */
export const blankMemory = () => new MemoryStore(join(mkdtempSync(join(tmpdir(), 'conduit-memory-')), 'values.jsonl'))
