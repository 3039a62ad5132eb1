import { fault } from '#core/faults/catalogue'
import { readYaml } from '#core/formats/yaml/read'
import { SitePlanner, type SitePlan } from '#db/siteText/plan'
import { Refusal } from '../answers/refusalError'
import { isSecretKept } from '../store/secrets'
import { settle } from './settle'
import type { SiteNow } from './siteNow'

/** The environment, or whatever else says what secrets are. */
export type Secrets = ReadonlyMap<string, string>

/** What a text comes to at the site as it is; a text that is no YAML is refused with line and column. */
export const planSite = (name: string, source: string, site: SiteNow, secrets: Secrets): SitePlan => {
  const read = readYaml(source)
  if (!read.ok) throw new Refusal(fault('text.unreadable', { name, ...read.spot, problem: read.problem }))
  return new SitePlanner(read.text, site.things, { secrets, isKept: isSecretKept, settled: settle }).plan()
}
