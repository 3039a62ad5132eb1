import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { descriptionsIn } from '../../server/worker/deviceDescriptions'
import { descriptionFiles } from '../../standins/iolink/descriptions/devices'
import { tension } from '../../standins/iolink/descriptions/tension'

/** Files of makers: XML, and archives of it. */

const bytes = (text: string) => new TextEncoder().encode(text)
const archive = (files: Record<string, string>) =>
  zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])))
const german =
  '<?xml version="1.0"?><ExternalTextDocument><Language xml:lang="fi"><Text id="T_Device" value="Köysivoima-anturi"/></Language></ExternalTextDocument>'

describe('a file of a maker', () => {
  it('is a document, or an archive of several; pictures in it are left alone', () => {
    const [alone] = descriptionsIn('tension.xml', bytes(`\uFEFF${tension}`), 'en')
    expect(alone).toMatchObject({ ok: true, description: { vendorId: 2641, deviceId: 1051, vendorName: 'Harrow Sensor Works', languages: ['en', 'de'] } }) // prettier-ignore
    const all = descriptionsIn('all.zip', archive({ ...descriptionFiles, 'Harrow-logo.png': 'no picture', 'readme.txt': 'read me' }), 'de')
    expect(all.map((one) => one.ok && [one.description.deviceId, one.description.language])).toEqual([
      [1051, 'de'],
      [1062, 'en'],
      [1074, 'en'],
      [1088, 'en'],
    ])
  })

  it('brings further languages in files beside, called as the document is', () => {
    const files = { 'Harrow-HT40-IODD1.1.xml': tension, 'Harrow-HT40-IODD1.1-fi.xml': german, 'Other-IODD1.1-fi.xml': german.replaceAll('fi', 'sv') } // prettier-ignore
    const [read] = descriptionsIn('tension.zip', archive(files), 'fi')
    expect(read).toMatchObject({
      ok: true,
      description: { languages: ['en', 'de', 'fi'], language: 'fi', name: 'Köysivoima-anturi 2641/1051' },
    })
  })

  it('packed by another program in one pass, without sizes before its files, is read as well', () => {
    const folder = mkdtempSync(join(tmpdir(), 'conduit-zip-'))
    writeFileSync(join(folder, 'tension.xml'), tension)
    const script = `import zipfile, sys
out = zipfile.ZipFile(sys.stdout.buffer, 'w', zipfile.ZIP_DEFLATED)
out.write('${join(folder, 'tension.xml')}', 'tension.xml')
out.close()`
    // what is written to a pipe cannot go back to note sizes
    const packed = execFileSync('sh', ['-c', `python3 -c "$SCRIPT" | cat`], { env: { ...process.env, SCRIPT: script } })
    rmSync(folder, { recursive: true })
    expect(descriptionsIn('tension.zip', packed, 'en')).toMatchObject([{ ok: true, file: 'tension.xml' }])
  })

  it('of which one document cannot be read, gives the others', () => {
    const broken = tension.replace('<DeviceFunction>', '<DeviceFunction><')
    const read = descriptionsIn('two.zip', archive({ 'a.xml': broken, 'b.xml': tension }), 'en')
    expect(read).toMatchObject([
      { ok: false, file: 'a.xml' },
      { ok: true, file: 'b.xml' },
    ])
    expect(!read[0]!.ok && read[0]!.line).toBeGreaterThan(0)
  })

  it('that unpacks to far more than it is, is given up while it is unpacked', () => {
    const swollen = zipSync({ 'a.xml': new Uint8Array(72 * 1024 * 1024), 'b.xml': strToU8(tension) })
    expect(swollen.length).toBeLessThan(200_000)
    const before = process.memoryUsage().rss
    const [read] = descriptionsIn('bomb.zip', swollen, 'en')
    expect(read).toMatchObject({ ok: false, file: 'bomb.zip', problem: 'it unpacks to more than 64 MB' })
    expect(process.memoryUsage().rss - before).toBeLessThan(400 * 1024 * 1024)
  }, 30_000)

  it.each([
    [
      'with more files than anybody needs',
      () => archive(Object.fromEntries(Array.from({ length: 600 }, (_, i) => [`${i}.xml`, '<a/>']))),
      /more than 500 files/,
    ],
    ['without any description', () => archive({ 'readme.txt': 'x' }), /holds no XML file/],
    ['that is cut off', () => archive({ 'a.xml': tension }).subarray(0, 900), /cannot be|holds no XML/],
    [
      'that is noise',
      () => Uint8Array.from({ length: 4000 }, (_, i) => (i < 2 ? [0x50, 0x4b][i]! : (i * 7919) % 256)),
      /cannot be read|holds no XML/,
    ],
  ] as const)('that is an archive %s, is told', (_, made, problem) => {
    const [read] = descriptionsIn('some.zip', made(), 'en')
    expect(read).toMatchObject({ ok: false })
    expect(!read!.ok && read!.problem).toMatch(problem)
  })

  it.each([
    ['an entity of its own', '<!DOCTYPE IODevice [<!ENTITY e SYSTEM "file:///etc/passwd">]>'],
    ['entities that swell', '<!DOCTYPE IODevice [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;&a;">]>'],
  ])('with %s is refused', (_, doctype) => {
    const document = tension.replace('<IODevice ', `${doctype}<IODevice `).replace('value="Tension"', 'value="&e;&b;"')
    expect(descriptionsIn('entity.xml', bytes(document), 'en')).toMatchObject([{ ok: false, file: 'entity.xml' }])
  })
})
