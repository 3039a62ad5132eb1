import { database } from '../lib/database'
import { defineRoute } from '../lib/refusal'

export default defineRoute('look', () => database().selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow())
