import type { CallBook, CallFilter, CallPage } from '#core/calls/callBook'
import { fault } from '#core/faults/catalogue'
import type { CourseMinute } from '#core/statistics/course'
import type { Meters } from '#core/statistics/meters'
import type { CallTotals } from '#shared/calls'
import type { CaseFacts } from '#shared/handover'
import type { MeasuringApi } from '#shared/measuringApi'
import type { Answer } from '#shared/rpc'
import type { AllStatistics, MeasuredKind } from '#shared/statistics'
import { ThingFunctions, type ThingParts } from './things'

const mostVainShown = 200
const mostInPack = 500

/** And what is measured and noted of links, outlets and bridges. */
export class MeasuringFunctions extends ThingFunctions implements MeasuringApi {
  constructor(private measured: ThingParts) {
    super(measured)
  }

  statistics = (): AllStatistics => {
    const { engine } = this.measured
    return {
      links: [...engine.allLinks()].map(([, link]) => link.statistics()),
      outlets: [...engine.allOutlets()].map(([, outlet]) => outlet.statistics()),
      bridges: [...engine.bridges.all()].map((bridge) => bridge.statistics()),
    }
  }

  resetStatistics = (only: { of: MeasuredKind; id: number } | null): Answer<null> => {
    const one = only && this.countingOf(only.of, only.id)
    if (only && !one) return { ok: false, fault: fault('entry.gone', { thing: only.of, id: only.id }) }
    for (const counting of one ? [one] : this.allCounting()) counting.reset(Date.now())
    return { ok: true, value: null }
  }

  statisticsCourse = (of: MeasuredKind, id: number): Answer<CourseMinute[]> => {
    const course = this.metersOf(of, id)?.course
    if (!course) return { ok: false, fault: fault('entry.gone', { thing: of, id }) }
    return { ok: true, value: course.told(Date.now()) }
  }

  calls = (outletId: number, filter: CallFilter, most: number): Answer<CallPage> =>
    this.ofCalls(outletId, (book) => book.page(filter, most))

  /** Of each outlet the last, for a handover pack. */
  lastCalls = (): CaseFacts['calls'] =>
    [...this.measured.engine.allOutlets()].map(([outlet, { name, calls }]) => ({
      ...{ outlet, name, calls: calls.page({}, mostInPack).calls, totals: totalsOf(calls) },
    }))

  callTotals = (outletId: number): Answer<CallTotals> => this.ofCalls(outletId, totalsOf)

  private ofCalls<T>(outletId: number, look: (book: CallBook) => T): Answer<T> {
    const outlet = this.measured.engine.outlet(outletId)
    if (!outlet) return { ok: false, fault: fault('entry.gone', { thing: 'outlet', id: outletId }) }
    return { ok: true, value: look(outlet.calls) }
  }

  private metersOf(of: MeasuredKind, id: number): Meters | undefined {
    const { engine } = this.measured
    if (of === 'outlet') return engine.outlet(id)?.calls.meters
    return of === 'link' ? engine.link(id)?.meters : engine.bridges.get(id)?.meters
  }

  /** An outlet's calls have more to count than its meters. */
  private countingOf(of: MeasuredKind, id: number): Counting | undefined {
    return of === 'outlet' ? this.measured.engine.outlet(id)?.calls : this.metersOf(of, id)
  }

  private allCounting(): Counting[] {
    const { engine } = this.measured
    return [
      ...[...engine.allLinks()].map(([, { meters }]) => meters),
      ...[...engine.allOutlets()].map(([, { calls }]) => calls),
      ...[...engine.bridges.all()].map(({ meters }) => meters),
    ]
  }
}

const totalsOf = (book: CallBook): CallTotals => {
  const { items, others } = book.askedInVain(mostVainShown)
  return { since: book.since, clients: book.totals(Date.now()), vain: items, vainOthers: others }
}

interface Counting {
  reset(now: number): void
}
