import { version } from '~~/package.json'
import { operations } from '#shared/api/registry'
import { describeApi } from '#shared/api/site'
import { defineRoute } from '../answers/route'
import { describe } from '../description/document'

let made: ReturnType<typeof describe> | null = null

export default defineRoute(describeApi, () => (made ??= describe(operations, version)))
