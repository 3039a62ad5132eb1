import { AttributeIds } from 'node-opcua'
import { flow } from '#shared/flow'
import type { FarLink } from '#shared/status'
import { healthNamespace } from '#core/opcua/ourNamespaces'
import { steadyNow } from '#pacing/clock'
import type { Services } from './services'

const readEveryMs = 3000
const browseEveryMs = 15_000
const mostLinks = 500
/** What is told of each, in the order in which it is read. */
const facts = ['State', 'Sentence', 'Tags', 'GoodTags', 'AnswerTime', 'LastError'] as const

interface Around {
  services: Services
  namespaces: readonly string[]
  isBroken(): boolean
}

/** How the links of a copy are that we are paired with, read from its objects below Objects/Links. */
export class FarLinks {
  private names: string[] = []
  private known: FarLink[] = []
  private browsedAt = 0
  private timer: NodeJS.Timeout | null = null
  private isClosed = false

  constructor(private around: Around) {
    void this.look()
  }

  /** Those that are not well first. */
  list(): FarLink[] {
    return this.known
  }

  close() {
    this.isClosed = true
    if (this.timer) clearTimeout(this.timer)
  }

  private async look() {
    try {
      if (!this.around.isBroken()) await this.lookNow()
    } catch {
      // the session tells what is wrong; the next look comes
    }
    if (!this.isClosed) this.timer = setTimeout(() => void this.look(), readEveryMs)
  }

  private async lookNow() {
    const index = this.around.namespaces.indexOf(healthNamespace)
    if (index < 0) return void (this.known = [])
    if (steadyNow() - this.browsedAt > browseEveryMs) this.names = await this.browse(index)
    const nodes = this.names.flatMap((name) =>
      facts.map((fact) => ({ nodeId: `ns=${index};s=${name}/${fact}`, attributeId: AttributeIds.Value })),
    )
    const values = nodes.length > 0 ? await this.around.services.read(nodes) : []
    const told = this.names.flatMap((name, i) => farLinkOf(name, values.slice(i * facts.length, (i + 1) * facts.length)) ?? [])
    this.known = told.sort((a, b) => rank[a.flow] - rank[b.flow] || a.name.localeCompare(b.name))
  }

  private async browse(index: number): Promise<string[]> {
    this.browsedAt = steadyNow()
    const asked = { nodeId: `ns=${index};s=/`, browseDirection: 0, referenceTypeId: 'i=35', includeSubtypes: true, resultMask: 63 }
    const [browsed] = await this.around.services.browse([asked], mostLinks)
    return browsed!.references.map(({ browseName }) => browseName.name ?? '').filter(Boolean)
  }
}

const rank = { broken: 0, late: 1, flowing: 2, off: 3 }

/** Null: it is gone, or tells something else than we understand. */
const farLinkOf = (name: string, read: { value?: { value?: unknown } }[]): FarLink | null => {
  const [state, sentence, tags, goodTags, answer, lastError] = read.map((one) => one?.value?.value)
  const told = flow.safeParse(state)
  if (!told.success) return null
  const ms = Number(answer)
  return {
    ...{ name, flow: told.data, sentence: String(sentence ?? ''), tags: Number(tags) || 0, goodTags: Number(goodTags) || 0 },
    answerMs: Number.isFinite(ms) ? ms : null,
    lastError: String(lastError ?? ''),
  }
}
