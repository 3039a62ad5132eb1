import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { AxeResults, RunOnly } from 'axe-core'
import type { Browser } from './browser'

const source = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')
/** WCAG 2.1, levels A and AA, and what is good practice besides. */
const standard = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'best-practice']
/** Those of its rules that look at colours; by their tag, those of level AAA would come along. */
const colourRules = ['color-contrast', 'link-in-text-block']

/** The explorer of the API is a page of its own within ours. */
const notOurs = Object.fromEntries(
  ['landmark-main-is-top-level', 'landmark-no-duplicate-main', 'landmark-unique'].map((rule) => [rule, { enabled: false }]),
)

/** What of the page as it stands now people cannot use who see, hear or point otherwise; one line each. */
export const barriersOn = ({ driver }: Browser): Promise<string[]> => barriersBy(driver, { type: 'tag', values: standard })

/** The same of what another theme can change. */
export const colourBarriersOn = ({ driver }: Browser): Promise<string[]> => barriersBy(driver, { type: 'rule', values: colourRules })

const barriersBy = async (driver: Browser['driver'], only: RunOnly): Promise<string[]> => {
  await driver.executeScript(source)
  const { violations } = await driver.executeAsyncScript<AxeResults>(
    'const done = arguments[2]; axe.run(document, { runOnly: arguments[0], rules: arguments[1], resultTypes: ["violations"] }).then(done)',
    only,
    notOurs,
  )
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(({ target, failureSummary }) => `${id}: ${target.join(' ')} ${(failureSummary ?? '').split('\n')[1] ?? ''}`),
  )
}
