import { createInterface } from 'node:readline/promises'
import { Writable } from 'node:stream'

/** Whether somebody sits at the other end. */
export const canAsk = () => process.stdin.isTTY === true && process.stdout.isTTY === true

export const askYes = async (question: string): Promise<boolean> => {
  const line = createInterface({ input: process.stdin, output: process.stdout })
  const answer = await line.question(`${question} Type yes or no: `)
  line.close()
  return answer.trim().toLowerCase() === 'yes'
}

/** What is typed does not show. */
export const askSecret = async (name: string): Promise<string> => {
  process.stdout.write(`${name}: `)
  const nowhere = new Writable({ write: (_part, _encoding, done) => done() })
  const line = createInterface({ input: process.stdin, output: nowhere, terminal: true })
  const answer = await line.question('')
  line.close()
  process.stdout.write('\n')
  return answer
}
