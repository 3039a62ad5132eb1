import { baseProblem } from '#core/http/base'
import { fault } from '#core/faults/catalogue'
import type { HttpSettings } from '#core/http/settings'
import type { CheckContext } from '../driver'
import { Caller, failureOf } from './caller'
import { accessOf } from './access'

/** Redirects within a host are followed; nothing that shows whose we are goes to another host than that of the link. */
export const fetchText = async (
  settings: HttpSettings,
  address: string,
  { security, wire }: Pick<CheckContext, 'security' | 'wire'>,
): Promise<string> => {
  const refuse = (problem: string) => fault('http.call', { call: address, problem }) as unknown as Error
  if (!URL.canParse(address)) throw refuse('this is no address')
  const { origin, pathname, search } = new URL(address)
  if (baseProblem(origin) !== null) throw refuse('an address begins with http:// or https://, and a host')
  const isOurs = new URL(settings.base).origin === origin
  const there: HttpSettings = { ...settings, base: origin, atOnce: 1, ...(isOurs ? {} : { signIn: { kind: 'none' }, headers: [] }) }
  const caller = new Caller(there, accessOf(there, security, wire), wire)
  try {
    const { body } = await caller.call({ method: 'GET', target: pathname + search, headers: {}, body: null })
    return new TextDecoder().decode(body)
  } catch (error) {
    throw failureOf(error).why as unknown as Error
  } finally {
    await caller.close()
  }
}
