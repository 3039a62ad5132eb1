import { readFileSync, writeFileSync } from 'node:fs'
import { basename } from 'node:path'
import { fieldsOf } from '#db/siteText/changes'
import { sections, textSchema, type Part } from '#db/siteText/document'
import type { SitePlan } from '#db/siteText/plan'
import { writeSite, type Things } from '#db/siteText/write'
import { applySite } from '../siteText/apply'
import { partOf } from '../siteText/part'
import { planSite } from '../siteText/plan'
import { siteNow, type SiteNow } from '../siteText/siteNow'
import { database } from '../store/database'
import { askSecret, askYes, canAsk } from './ask'
import { tellEffect } from './effect'
import { runCommand, Wrong, type ValuesOf } from './run'
import { changesText, countsText, problemsText } from './told'

const usage = `./conduit site export FILE [--only LISTS] [--folder FOLDER] [--link LINK]
./conduit site check FILE
./conduit site compare FILE
./conduit site apply FILE [--yes]
./conduit site schema FILE

LISTS are ${sections.map(({ section }) => section).join(', ')}, with commas between them. FILE may be “-”.
--demo   the demo’s site
--all    every change, however many`

const options = {
  yes: { type: 'boolean' },
  demo: { type: 'boolean' },
  all: { type: 'boolean' },
  only: { type: 'string' },
  folder: { type: 'string' },
  link: { type: 'string' },
} as const

type Options = ValuesOf<typeof options>

const nameOfFile = (file: string) => (file === '-' ? 'standard input' : basename(file))
const sourceOf = (file: string) => readFileSync(file === '-' ? 0 : file, 'utf8')

const exported = async (file: string, { only, folder, link }: Options) => {
  const site = await siteNow(database())
  const part: Part = { ...(folder === undefined ? {} : { folder }), ...(link === undefined ? {} : { link }) }
  const lists = partOf(site.things, only?.split(',').map((name) => name.trim()) ?? null, part)
  if (typeof lists === 'string') throw new Wrong(lists)
  const isPart = Object.keys(part).length > 0
  const text = [...writeSite(only || isPart ? null : site.name, isPart ? part : null, lists as Partial<Things>, site.things)].join('')
  writeFileSync(file === '-' ? 1 : file, text)
  if (file !== '-') console.log(`Revision ${site.revision} of “${site.name}” is in ${file}. Secrets are not in it, only their names.`)
  return 0
}

/** Plans, with secrets from the environment. */
const planned = async (file: string, secrets = environment()): Promise<{ plan: SitePlan; site: SiteNow; source: string }> => {
  const [site, source] = [await siteNow(database()), sourceOf(file)]
  const plan = planSite(nameOfFile(file), source, site, secrets)
  if (plan.problems.length > 0) throw new Wrong(`Nothing was changed.\n${problemsText(nameOfFile(file), plan.problems)}`)
  return { plan, site, source }
}

const environment = () =>
  new Map(Object.entries(process.env).flatMap(([name, value]) => (value === undefined ? [] : [[name, value] as const])))

const isNothing = ({ plan, site }: { plan: SitePlan; site: SiteNow }) =>
  plan.changes.length === 0 && (plan.head?.site === undefined || plan.head.site === site.name)

const tellPlan = ({ plan, site }: { plan: SitePlan; site: SiteNow }, { all }: Options) => {
  const names = new Map<string, string>(
    (['link', 'outlet'] as const).flatMap((of) => site.things[of].map(({ id, name }) => [`${of} ${id}`, name] as const)),
  )
  for (const change of plan.changes) if (change.what === 'made') names.set(`${change.subject} ${change.id}`, change.name)
  const name = plan.head?.site
  if (name !== undefined && name !== site.name) console.log(`~ site: ${site.name} → ${name}`)
  for (const line of changesText(
    plan.changes,
    (change) => fieldsOf(change, (of, id) => names.get(`${of} ${id}`) ?? String(id)),
    all ? Infinity : 200,
  ))
    console.log(line)
  console.log(countsText(plan, site.revision))
}

const check = async (file: string) => {
  const { plan } = await planned(file)
  console.log(
    `${nameOfFile(file)} fits. ${plan.changes.length === 0 ? 'Applying it would change nothing.' : `Applying it would change ${plan.changes.length}.`}`,
  )
  if (plan.missing.length > 0) console.log(`Secrets it will ask for: ${plan.missing.map(({ secret }) => secret).join(', ')}`)
  return 0
}

const compare = async (file: string, values: Options) => {
  const found = await planned(file)
  if (isNothing(found)) console.log(`Nothing differs from revision ${found.site.revision}.`)
  else tellPlan(found, values)
  return isNothing(found) ? 0 : 1
}

const apply = async (file: string, values: Options) => {
  if (file === '-' && !values.yes) throw new Wrong('From standard input only with --yes: there is nobody to ask.')
  let found = await planned(file)
  if (isNothing(found)) {
    console.log(`Nothing differs from revision ${found.site.revision}; nothing was changed.`)
    return 0
  }
  tellPlan(found, values)
  if (!values.yes && !(canAsk() && (await askYes('Apply it?')))) {
    console.log('Nothing was changed.')
    return 1
  }
  const { missing } = found.plan
  if (missing.length > 0 && canAsk()) {
    const secrets = environment()
    for (const { secret } of missing) if (!secrets.has(secret)) secrets.set(secret, await askSecret(secret))
    const plan = planSite(nameOfFile(file), found.source, found.site, secrets)
    found = { ...found, plan }
  }
  const revision = await applySite(nameOfFile(file), 'command line', found.plan, found.site)
  await tellEffect(revision)
  return 0
}

const schema = (file: string) => {
  writeFileSync(file === '-' ? 1 : file, `${JSON.stringify(textSchema(), null, 2)}\n`)
  return 0
}

await runCommand(usage, options, { export: exported, check, compare, apply, schema })
