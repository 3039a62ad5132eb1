import { inject } from 'vitest'
import { databaseIn } from './cluster'

/** A database of a test file's own, with all tables; or with those of an earlier version. */
export const freshDatabase = (upTo?: string) => databaseIn(inject('clusterUrl'), upTo)
