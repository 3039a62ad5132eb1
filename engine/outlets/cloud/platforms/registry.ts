import type { PlatformWay } from '#shared/outlets/cloudPlatform'
import type { Platform, PlatformContext, PlatformMaker } from '../platform'
import { httpPlatform } from './http'
import { mqttPlatform } from './mqtt'

/** The adapter of every way to a platform. A new one adds its line here. */
const makers: { [K in PlatformWay['kind']]: PlatformMaker<K> } = { http: httpPlatform, mqtt: mqttPlatform }

/** Way and adapter go together by the kind; TypeScript cannot follow that through a variable. */
export const platformFor = (way: PlatformWay, context: PlatformContext): Platform =>
  (makers[way.kind] as (way: PlatformWay, context: PlatformContext) => Platform)(way, context)
