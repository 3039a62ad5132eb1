import { AsyncLocalStorage } from 'node:async_hooks'
import type { ClientSession } from 'node-opcua'
import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { healthNamespace, walkMethod } from '#core/opcua/ourNamespaces'
import { within } from '#pacing/within'
import { farHalf, type FarHalf } from '#shared/farHalf'
import type { CheckStep, FarLink } from '#shared/status'
import { inParallel } from '#pacing/inParallel'

/** While another copy has us walk: it asks for our half, and not for those behind it, which may lead back to itself. */
export const walkedForAnother = new AsyncLocalStorage<true>()

interface Far {
  session: ClientSession
  namespaces: readonly string[]
  links: readonly FarLink[]
}

/** With more links than this only those are walked that are not well. */
const mostWalked = 6
const mostOfAll = 20
const answerMs = 70_000

/** The other half of a relay’s path: the copy there walks the paths of its links, each a group of steps. */
export async function* farHalves({ session, namespaces, links }: Far): AsyncGenerator<CheckStep> {
  const index = namespaces.indexOf(healthNamespace)
  if (index < 0) return
  const open = links.filter(({ flow }) => flow !== 'off')
  const walked = open.length <= mostWalked ? open : open.filter(({ flow }) => flow !== 'flowing').slice(0, mostOfAll)
  for (const link of walked) yield { ...blank(link), flow: 'waiting', evidence: '' }
  const halves = await inParallel([...walked], 4, async (link) => ({ link, half: await halfOf(session, index, link.name) }))
  for (const { link, half } of halves) yield* isFault(half) ? [failed(link, half)] : stepsOf(link, half)
  for (const link of open.filter((one) => !walked.includes(one))) yield { ...blank(link), flow: asStep(link), evidence: link.sentence }
}

const blank = ({ name }: FarLink): Omit<CheckStep, 'flow'> => ({
  ...{ step: `there:${name}`, title: name, ms: null, fault: null, evidence: '', group: 'Over there' },
})
const asStep = ({ flow }: FarLink): CheckStep['flow'] => flow
const failed = (link: FarLink, why: Fault): CheckStep => ({ ...blank(link), flow: 'broken', evidence: why.what, fault: why })

function* stepsOf(link: FarLink, { steps, causes }: FarHalf): Generator<CheckStep> {
  const stopped = steps.find(({ fault: why }) => why !== null)
  yield {
    ...blank(link),
    flow: stopped ? 'broken' : 'flowing',
    evidence: stopped ? 'walked over there; it stops' : 'walked over there, to the end',
  }
  for (const { certificate: _theirs, about: _about, farSide: _farSide, at: _at, ...step } of steps)
    yield {
      ...step,
      step: `there:${link.name}:${step.step}`,
      group: `There: ${link.name}${step.group ? `, ${step.group}` : ''}`,
      ...(step === stopped ? { causes } : {}),
    }
}

const halfOf = async (session: ClientSession, index: number, link: string): Promise<FarHalf | Fault> => {
  const asked = { objectId: `ns=${index};s=${link}`, methodId: `ns=${index};s=${link}/${walkMethod}`, inputArguments: [] }
  try {
    const { statusCode, outputArguments } = await within(answerMs, session.call(asked))
    if (statusCode.isNotGood()) return fault('pairing.no-walk', { link, problem: statusCode.name }, statusCode.name)
    const read = farHalf.safeParse(JSON.parse(String(outputArguments?.[0]?.value ?? '')))
    return read.success ? read.data : fault('pairing.answer', { name: link }, read.error.issues[0]?.message ?? '')
  } catch (error) {
    return fault('pairing.no-walk', { link, problem: (error as Error).message }, (error as Error).message)
  }
}
