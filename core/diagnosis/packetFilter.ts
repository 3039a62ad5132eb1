import { z } from 'zod'
import type { FilterFound } from './facts'

/** A connection as the packet filter of this machine sees its first packet. */
export interface FirstPacket {
  hook: 'output' | 'input'
  carries: 'tcp' | 'udp'
  /** Absent: not known, as the sender of who comes in. */
  from?: string
  to?: string
  port: number
  /** The interface that it leaves or comes in by; absent: one to other machines, and which is not known. */
  by?: string
}

const expression = z.record(z.string(), z.unknown())
const listing = z.object({
  nftables: z.array(
    z.object({
      chain: z
        .object({
          family: z.string(),
          table: z.string(),
          name: z.string(),
          hook: z.string().optional(),
          prio: z.number().optional(),
          policy: z.string().optional(),
        })
        .optional(),
      rule: z
        .object({ family: z.string(), table: z.string(), chain: z.string(), handle: z.number(), expr: z.array(expression) })
        .optional(),
      set: z.object({ family: z.string(), table: z.string(), name: z.string(), elem: z.array(z.unknown()).optional() }).optional(),
    }),
  ),
})
type Listing = z.output<typeof listing>['nftables']
type ChainOf = NonNullable<Listing[number]['chain']>
type RuleOf = NonNullable<Listing[number]['rule']>

/** Null: whether it matches cannot be told from here. */
type Answer = boolean | null

/**
 * What the rules of the packet filter (`nft -j list ruleset`) do with a connection. Rules that ask for more than is known of it
 * leave it open: what they may do is told as that.
 * @param texts the same rules as text (`nft -a list ruleset`), to show them as their owner wrote them
 */
export const filterOf = (json: string, texts: string, packet: FirstPacket): FilterFound => {
  const { nftables } = listing.parse(JSON.parse(json))
  const chains = nftables.flatMap(({ chain }) => (chain?.hook === packet.hook && speaksOf(chain.family, packet) ? [chain] : []))
  let open: FilterFound | null = null
  for (const chain of chains.sort((a, b) => (a.prio ?? 0) - (b.prio ?? 0))) {
    const walk = new Walk(nftables, texts, packet)
    const verdict = walk.through(chain.family, chain.table, chain.name, 0) ?? (chain.policy === 'drop' ? 'drop' : 'accept')
    // what may have been let through before is not stopped for certain
    if (verdict !== 'accept' && walk.passes) open ??= { outcome: 'depends', ...walk.passes }
    else if (verdict !== 'accept') return { outcome: 'stops', how: verdict, ...(walk.decidedBy ?? policyOf(chain)) }
    if (walk.open) open ??= { outcome: 'depends', ...walk.open }
  }
  return open ?? { outcome: 'lets through' }
}

const speaksOf = (family: string, { from, to }: FirstPacket): boolean => {
  const address = to ?? from
  if (family === 'inet') return true
  return address === undefined ? family === 'ip' || family === 'ip6' : family === (address.includes(':') ? 'ip6' : 'ip')
}

const policyOf = ({ family, table, name }: ChainOf) => ({ rule: `policy drop of the chain ${name}`, place: `${family} ${table} ${name}` })

type Verdict = 'accept' | 'drop' | 'reject'
/** Chains call each other at most so deep. */
const deepest = 16

class Walk {
  decidedBy: { rule: string; place: string } | null = null
  /** What may stop it. */
  open: { rule: string; place: string } | null = null
  /** What may let it through. */
  passes: { rule: string; place: string } | null = null

  constructor(
    private all: Listing,
    private texts: string,
    private packet: FirstPacket,
  ) {}

  /** Null: it came to the end of the chain. */
  through(family: string, table: string, chain: string, depth: number): Verdict | null {
    if (depth > deepest) return null
    for (const { rule } of this.all) {
      if (!rule || rule.family !== family || rule.table !== table || rule.chain !== chain) continue
      const matches = this.matches(rule)
      if (matches === false) continue
      const end = this.verdictOf(rule, matches === null, depth)
      if (end === 'return') return null
      if (end !== null) return end
    }
    return null
  }

  private verdictOf(rule: RuleOf, isOpen: boolean, depth: number): Verdict | 'return' | null {
    for (const part of rule.expr) {
      if ('accept' in part || 'return' in part) return this.passed(rule, 'accept' in part ? 'accept' : 'return', isOpen)
      if ('drop' in part || 'reject' in part) return this.stopped(rule, 'drop' in part ? 'drop' : 'reject', isOpen)
      const target = targetOf(part.jump ?? part.goto)
      const end = target === null ? null : this.elsewhere(rule, target, isOpen, depth)
      if (end !== null) return end
      if ('goto' in part && !isOpen) return 'return'
    }
    return null
  }

  private passed(rule: RuleOf, how: 'accept' | 'return', isOpen: boolean): 'accept' | 'return' | null {
    if (!isOpen) return how
    this.passes ??= this.named(rule)
    return null
  }

  private named(rule: RuleOf) {
    return { rule: this.textOf(rule), place: `${rule.family} ${rule.table} ${rule.chain}` }
  }

  private elsewhere({ family, table }: RuleOf, chain: string, isOpen: boolean, depth: number): Verdict | null {
    const end = this.through(family, table, chain, depth + 1)
    if (!isOpen) return end
    // whether it is gone into is not known: what would have decided there leaves it open
    if (end !== null && end !== 'accept') this.open ??= this.decidedBy
    this.decidedBy = null
    return null
  }

  private stopped(rule: RuleOf, how: Verdict, isOpen: boolean): Verdict | null {
    const found = this.named(rule)
    if (isOpen) this.open ??= found
    else this.decidedBy = found
    return isOpen ? null : how
  }

  /** As its owner wrote it; the number stands behind each rule, and counts anew in each table. */
  private textOf({ family, table, handle, expr }: RuleOf): string {
    const lines = this.texts.split('\n')
    const begin = lines.findIndex((line) => line.startsWith(`table ${family} ${table} {`))
    const line = lines.slice(begin + 1).find((text) => text.endsWith(`# handle ${handle}`) && !/^\s*(table|chain|set|map) /.test(text))
    return begin >= 0 && line ? line.trim() : JSON.stringify(expr)
  }

  private matches({ family, table, expr }: RuleOf): Answer {
    let known: Answer = true
    for (const part of expr) {
      const answer = this.part(part, family, table)
      if (answer === false) return false
      if (answer === null) known = null
    }
    return known
  }

  private part(part: Record<string, unknown>, family: string, table: string): Answer {
    const [kind] = Object.keys(part)
    if (kind === 'match') return this.match(part.match as Match, family, table)
    // what only counts, notes or decides matches always; what limits, or looks up elsewhere, may
    return harmless.has(kind ?? '') ? true : null
  }

  private match({ op, left, right }: Match, family: string, table: string): Answer {
    const value = this.valueOf(left)
    if (value === undefined) return right === 'lo' ? op === '!=' : null
    const inside = this.isIn(value, right, family, table)
    if (inside === null) return null
    return op === '!=' ? !inside : op === '==' || op === 'in' ? inside : null
  }

  private valueOf({ payload, meta, ct }: Left): string | number | undefined {
    if (payload) return payloadOf(this.packet, payload)
    if (ct) return ct.key === 'state' ? 'new' : undefined
    const ways = this.packet.hook === 'output' ? ['oifname', 'oif'] : ['iifname', 'iif']
    if (meta?.key === 'l4proto') return this.packet.carries
    return ways.includes(meta?.key ?? '') ? this.packet.by : undefined
  }

  private isIn(value: string | number, right: unknown, family: string, table: string): Answer {
    if (typeof right === 'string' && right.startsWith('@')) return this.inSet(value, right.slice(1), family, table)
    if (typeof right === 'string' || typeof right === 'number') return String(right) === String(value)
    if (Array.isArray(right)) return anyOf(right.map((one) => this.isIn(value, one, family, table)))
    const { set, range, prefix, elem } = right as {
      set?: unknown[]
      range?: unknown[]
      prefix?: { addr: string; len: number }
      elem?: { val?: unknown }
    }
    if (set) return anyOf(set.map((one) => this.isIn(value, one, family, table)))
    if (elem) return this.isIn(value, elem.val, family, table)
    if (range)
      return typeof value === 'number'
        ? value >= Number(range[0]) && value <= Number(range[1])
        : between(value, String(range[0]), String(range[1]))
    if (prefix) return inPrefix(String(value), prefix.addr, prefix.len)
    return null
  }

  private inSet(value: string | number, name: string, family: string, table: string): Answer {
    const set = this.all.find((one) => one.set?.name === name && one.set.family === family && one.set.table === table)?.set
    return set ? anyOf((set.elem ?? []).map((one) => this.isIn(value, one, family, table))) : null
  }
}

interface Match {
  op: string
  left: Left
  right: unknown
}

interface Left {
  payload?: { protocol?: string; field?: string }
  meta?: { key?: string }
  ct?: { key?: string }
}

/** Undefined: that is not known of it. */
const payloadOf = (
  { carries, from, to, port }: FirstPacket,
  { protocol, field }: NonNullable<Left['payload']>,
): string | number | undefined => {
  if (field === 'dport') return protocol === carries || protocol === 'th' ? port : -1
  if (field === 'protocol' || field === 'nexthdr') return carries
  return field === 'daddr' ? to : field === 'saddr' ? from : undefined
}

const harmless = new Set(['counter', 'log', 'accept', 'drop', 'reject', 'jump', 'goto', 'return', 'comment', 'mangle', 'notrack'])

const targetOf = (jump: unknown): string | null =>
  typeof jump === 'object' && jump !== null && 'target' in jump ? String((jump as { target: unknown }).target) : null

const anyOf = (answers: Answer[]): Answer => (answers.includes(true) ? true : answers.includes(null) ? null : false)

/** Only of IPv4; what is not compared is left open. */
const numberOf = (address: string): number | null => {
  const parts = address.split('.').map(Number)
  return parts.length === 4 && parts.every((part) => part >= 0 && part <= 255) ? parts.reduce((sum, part) => sum * 256 + part, 0) : null
}

const between = (address: string, first: string, last: string): Answer => {
  const [value, from, to] = [numberOf(address), numberOf(first), numberOf(last)]
  return value === null || from === null || to === null ? null : value >= from && value <= to
}

const inPrefix = (address: string, base: string, length: number): Answer => {
  const [value, from] = [numberOf(address), numberOf(base)]
  if (value === null || from === null) return address.includes(':') === base.includes(':') ? null : false
  const size = 2 ** (32 - length)
  return Math.floor(value / size) === Math.floor(from / size)
}
