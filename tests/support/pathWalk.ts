import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import type { Engine } from '#engine/engine'
import type { Security } from '#engine/trust/security'
import type { LinkDraft } from '#shared/links/link'
import type { Verdict } from '#shared/diagnosis'
import type { CheckStep } from '#shared/status'
import { testSecurity } from './security'

const nothingElse = {
  link: () => undefined,
  allLinks: () => [],
  allOutlets: () => [],
  connectedTo: () => [],
  roots: [],
  startedAt: 0,
  wanted: { things: { link: new Map(), bridge: new Map() } },
}

/** Walks the path of a link that nobody saved, in a site that has nothing else. */
export const walkPath = async (draft: LinkDraft, security?: Security) => {
  const around = { engine: nothingElse as unknown as Engine, book: new PathBook(null) }
  const paths = new PathWatch({ ...around, security: security ?? (await testSecurity()) })
  const steps = new Map<string, CheckStep>()
  let verdict: Verdict | null = null
  for await (const part of paths.checkSheet(draft, null, new AbortController().signal)) {
    if ('verdict' in part) verdict = part.verdict
    else steps.set(part.step, part)
  }
  paths.close()
  return { steps: [...steps.values()], verdict: verdict as Verdict | null }
}
