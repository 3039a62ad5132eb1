import { renameSync, writeFileSync } from 'node:fs'

/** Writes a file that only its owner reads: all of it, or it stays as it was. */
export const writeWhole = (file: string, text: string) => {
  writeFileSync(`${file}.new`, text, { mode: 0o600 })
  renameSync(`${file}.new`, file)
}
