import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { openBrowser, type Browser } from '../support/browser'
import { startSite } from '../support/site'
import { until } from '../support/until'
import { milliseconds, times, type Section } from './report'
import { capture, exchanges } from './trafficCase'

/** Takes the time of each frame of the page from now on, ms. Runs in the browser. */
const watchFrames = `
  window.frames_ = []
  let before = performance.now()
  const turn = () => {
    const now = performance.now()
    window.frames_.push(now - before)
    before = now
    requestAnimationFrame(turn)
  }
  requestAnimationFrame(turn)`

/** As fast as somebody types who is good at it; a driver gives all keys to a page at once. */
const typeAsPeopleDo = async (page: Browser, label: string, words: string) => {
  const field = await page.find(`input[aria-label=${JSON.stringify(label)}]`)
  for (const key of words) {
    await field.sendKeys(key)
    await pause(70)
  }
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** The longest frame while this goes on. */
const longest = async (page: Browser, work: () => Promise<unknown>): Promise<number> => {
  await page.driver.executeScript('window.frames_ = []')
  await work()
  return page.driver.executeScript<number>('return Math.max(...window.frames_)')
}

/** A page that has just come still fetches what it will need next: nobody opens a file then. */
const whenCalm = (page: Browser) =>
  until(
    () => longest(page, () => pause(1000)),
    (ms) => ms < 40,
  )

const says = (page: Browser, text: string) =>
  until(() => page.driver.executeScript<boolean>('return document.body.textContent.includes(arguments[0])', text), Boolean, 240)

interface Measured {
  opened: number
  filtered: number
}

const total = (2 * exchanges).toLocaleString('en-GB')

const ours = async (file: string): Promise<Measured> => {
  const site = await startSite()
  const page = await openBrowser(site.base, site.cookie)
  try {
    await page.go('/traffic')
    await says(page, 'Open a file')
    await page.driver.executeScript(watchFrames)
    const input = await page.find('input[type=file]')
    await whenCalm(page)
    const opened = await longest(page, async () => {
      await input.sendKeys(file)
      await says(page, `${total} frames`)
    })
    const filtered = await longest(page, async () => {
      await typeAsPeopleDo(page, 'Filter by words', 'holding/105')
      await says(page, ` of ${total} frames`)
    })
    return { opened, filtered }
  } finally {
    await page.close()
    await site.stop()
  }
}

/** As a script would in a page: each frame a line of JSON, read into a list and filtered there; the first hundred are shown. */
const plainPage = `<!doctype html><input type="file"><input id="words" aria-label="Words"><pre id="rows"></pre><p id="count"></p><script>
  let frames = []
  const show = (some) => {
    document.getElementById('rows').textContent = some.slice(0, 100).map((frame) => frame.at + ' ' + frame.summary).join('\\n')
    document.getElementById('count').textContent = some.length + ' shown'
  }
  document.querySelector('[type=file]').onchange = async (event) => {
    const text = await event.target.files[0].text()
    frames = text.split('\\n').filter(Boolean).map((line) => JSON.parse(line))
    show(frames)
  }
  document.getElementById('words').oninput = (event) => show(frames.filter(({ summary }) => summary.includes(event.target.value)))
</script>`

const plain = async (folder: string): Promise<Measured> => {
  const file = join(folder, 'frames.jsonl')
  const lines = Array.from({ length: 2 * exchanges }, (_, n) =>
    JSON.stringify({
      at: 1_795_946_064_733 + n * 0.4,
      connection: n % 8,
      length: 12,
      bytes: '000100000006',
      summary: `read holding/${n % 200} of unit 11`,
    }),
  )
  writeFileSync(file, lines.join('\n'))
  const server = createServer((_, response) => response.setHeader('content-type', 'text/html').end(plainPage))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const page = await openBrowser(`http://127.0.0.1:${(server.address() as AddressInfo).port}`)
  try {
    await page.go('/')
    await page.driver.executeScript(watchFrames)
    const opened = await longest(page, async () => {
      await (await page.find('[type=file]')).sendKeys(file)
      await says(page, `${2 * exchanges} shown`)
    })
    const filtered = await longest(page, async () => {
      await typeAsPeopleDo(page, 'Words', 'holding/105')
      await says(page, `${Math.floor((2 * exchanges) / 200)} shown`)
    })
    return { opened, filtered }
  } finally {
    await page.close()
    server.close()
  }
}

export const trafficPageCase = async (): Promise<Section> => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-frames-'))
  try {
    const file = join(folder, 'million.pcapng')
    writeFileSync(file, capture())
    const [first, second] = [await ours(file), await plain(folder)]
    const row = (what: string, key: keyof Measured) => ({
      ...{ what, ours: milliseconds(first[key]), plain: milliseconds(second[key]) },
      ...{ ratio: times(second[key] / first[key]), aim: 'at most 50 ms' },
    })
    return {
      title: `The page of ${total} frames`,
      how: 'The longest frame of the page: a capture is opened, put together, decoded and matched; then filtered by words, typed letter by letter. Debian’s Chromium without graphics hardware, with engine, web and database beside it on the same processors. Plain: a page reads the same number of frames as JSON Lines, decoded already, into a list.',
      rows: [row('while a capture is opened', 'opened'), row('while it is filtered', 'filtered')],
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
