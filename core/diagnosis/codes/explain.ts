import { components } from './components'
import { mysqlErrors, sqlStates } from './databases'
import type { CodeFamily, Explanation, Pasted } from './explanation'
import { nameService, posix } from './operatingSystem'
import { protocolFamilies } from './protocols'
import { tlsAlerts } from './tls'

/** Of a longer paste only this much is looked through. */
const mostText = 20_000
const mostFound = 40

const families: readonly CodeFamily[] = [...protocolFamilies, components, sqlStates, mysqlErrors, posix, nameService, tlsAlerts]

/**
 * What any code means that is met in this work, alone or inside of a pasted message: names and numbers, decimal, negative or
 * hexadecimal. The same number may mean something in several layers; then each is told.
 */
export const explain = (text: string): Explanation[] => {
  const pasted = takenApart(text.slice(0, mostText))
  const found = families.flatMap((family) => family.find(pasted))
  const seen = new Set<string>()
  return found
    .filter(({ family, code, name }) => !seen.has(`${family} ${code} ${name}`) && seen.add(`${family} ${code} ${name}`))
    .slice(0, mostFound)
}

const number = /(?<![\w.])(0x[0-9a-f]+|-?\d+)(?![\w.]*[a-z_])/gi
/** Numbers in hexadecimal are often written without a prefix where they are long. */
const bareHex = /(?<!\w)(?=[0-9a-f]*[a-f])(?=[0-9a-f]*\d)[0-9a-f]{4}(?:[0-9a-f]{4})?(?!\w)/gi

/** Eight digits that begin with 8 or C are hexadecimal far more often than not. */
const longHex = /(?<!\w)[8c][0-9a-f]{7}(?!\w)/gi

const takenApart = (text: string): Pasted => {
  const trimmed = text.trim()
  const written = [...trimmed.matchAll(number)].map(([, digits]) => asUnsigned(Number(digits)))
  const bare = [...trimmed.matchAll(bareHex), ...trimmed.matchAll(longHex)].map(([digits]) => Number.parseInt(digits, 16))
  return {
    text: trimmed,
    words: new Set(trimmed.match(/\w+/g) ?? []),
    numbers: [...new Set([...written, ...bare].filter((one): one is number => one !== null))],
    isAlone: /^[-+]?\w+$/.test(trimmed),
  }
}

const asUnsigned = (value: number): number | null => (Number.isFinite(value) && value >= -(2 ** 31) && value < 2 ** 32 ? value >>> 0 : null)
