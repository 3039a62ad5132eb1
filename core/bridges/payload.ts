import { isPlainObject, type Carried } from '../messages/carried'

/**
 * Builds an object from fields whose names say where each stands: `power.kw` is `kw` within `power`. Where two fields want
 * one place, the later has it.
 */
export const payloadOf = (fields: readonly string[], values: readonly Carried[]): Carried => {
  const whole: { [name: string]: Carried } = {}
  fields.forEach((field, i) => place(whole, field.split('.'), values[i] ?? null))
  return whole
}

const place = (into: { [name: string]: Carried }, [name = '', ...rest]: string[], value: Carried) => {
  if (rest.length === 0) return void define(into, name, value)
  const known = Object.hasOwn(into, name) ? into[name]! : null
  const inner: { [name: string]: Carried } = known !== null && isPlainObject(known) ? known : {}
  define(into, name, inner)
  place(inner, rest, value)
}

/** Also names that mean something to the language itself, such as `__proto__`, are only names. */
const define = (into: object, name: string, value: Carried) =>
  Object.defineProperty(into, name, { value, enumerable: true, configurable: true, writable: true })
