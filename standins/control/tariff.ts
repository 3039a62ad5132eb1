import { isTariffFault, tariffFaultText, type TariffService } from '../http/tariffService'

export const describeTariff = (tariff: TariffService) => ({
  requests: tariff.requests,
  calls: tariff.handedIn.slice(0, 20),
  faults: tariffFaultText,
  active: [...tariff.faults],
})

/** Faults of the tariff service; null where the path is none of ours. */
export const tariffRoute = async (tariff: TariffService, path: string, readBody: () => Promise<Record<string, unknown>>) => {
  if (path !== '/api/tariff/fault') return null
  const { fault, on = true } = await readBody()
  if (!isTariffFault(fault)) return { status: 400, body: { problem: `fault is one of ${Object.keys(tariffFaultText).join(', ')}` } }
  tariff.setFault(fault, on === true)
  return { status: 200, body: { done: true } }
}
