import { all, create, type EvalFunction } from 'mathjs/number'
import { readFormula } from '#core/formulas/compile'
import { frameOf } from '#core/formulas/frame'

/** A million evaluations of each formula: ours, and the package’s own compiled form with the same inputs. */

const texts = ['a * 2 + b', '(a + b) / 2 > 10 ? sqrt(a) : -b', 'max(a, b) * round(a / b, 1)']
const rounds = 1_000_000
const package_ = create(all!, {}) as unknown as { compile(text: string): EvalFunction }

const middle = (numbers: number[]) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)]!

const timed = (work: () => void) => {
  const times = Array.from({ length: 5 }, () => {
    const start = performance.now()
    work()
    return performance.now() - start
  })
  return middle(times)
}

const measured = texts.map((text) => {
  const read = readFormula(text)
  if (!read.ok) throw new Error(read.problem)
  const { formula } = read
  const frame = frameOf(formula.names.length)
  let sum = 0
  const oursMs = timed(() => {
    for (let i = 1; i <= rounds; i++) {
      for (let at = 0; at < frame.values.length; at++) frame.values[at] = i + at
      sum += formula.run(frame) as number
    }
  })
  const compiled = package_.compile(text)
  const scope = new Map<string, number>()
  let other = 0
  const plainMs = timed(() => {
    for (let i = 1; i <= rounds; i++) {
      formula.names.forEach((name, at) => scope.set(name, i + at))
      other += compiled.evaluate(scope) as number
    }
  })
  if (Math.abs(sum - other) > 1e-6 * Math.abs(sum)) throw new Error(`${text}: ${sum} and ${other}`)
  return { text, oursMs, plainMs }
})

console.log(JSON.stringify({ rounds, measured }))
