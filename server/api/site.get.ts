import { database } from '../store/database'
import { defineRoute } from '../answers/refusal'

export default defineRoute('look', () => database().selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow())
