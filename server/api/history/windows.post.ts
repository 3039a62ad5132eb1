import { windowsOf } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { windowsOfSeries } from '../../history/windows'

export default defineRoute(windowsOf, ({ body }) => windowsOfSeries(body))
