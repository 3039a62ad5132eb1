import { isQuayFault, quayFaultText, type Quay } from '../mqtt/quay'

export const describeQuay = (quay: Quay) => ({
  clients: quay.clients,
  messages: quay.messages,
  faults: quayFaultText,
  active: [...quay.faults],
})

/** Faults of the quay; null where the path is none of ours. */
export const quayRoute = async (quay: Quay, path: string, readBody: () => Promise<Record<string, unknown>>) => {
  if (path !== '/api/quay/fault') return null
  const { fault, on = true } = await readBody()
  if (!isQuayFault(fault)) return { status: 400, body: { problem: `fault is one of ${Object.keys(quayFaultText).join(', ')}` } }
  quay.setFault(fault, on === true)
  return { status: 200, body: { done: true } }
}
