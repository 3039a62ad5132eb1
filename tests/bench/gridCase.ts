import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { openBrowser, type Browser } from '../support/browser'
import { startSite } from '../support/site'
import { until } from '../support/until'
import { times, type Section } from './report'

const count = 100_000
const changing = 1000
const scrollMs = 5000

const scrolls = 3

interface Frames {
  median: number
  worst: number
}

interface Measured extends Frames {
  /** The first rows are there, right after all tags were imported, ms. */
  afterImportMs: number
  /** The same once nothing else goes on. */
  atRestMs: number
}

/** As a table: the first thousand change each second, the others stand. */
const table = () => {
  const lines = Array.from({ length: count }, (_, i) => {
    const path = `grid/${String(Math.floor(i / 100)).padStart(4, '0')}/value_${String(i % 100).padStart(2, '0')}`
    return i < changing ? `${path},signal,float64,walk,1000,kW,` : `${path},constant,float64,,,kW,${i}`
  })
  return ['path,source,type,signal_shape,signal_every,unit,value', ...lines].join('\n')
}

const fill = async (site: Awaited<ReturnType<typeof startSite>>) => {
  const send = (path: string, method: string, body: string, type: string) =>
    fetch(`${site.base}/api${path}`, { method, body, headers: { cookie: site.cookie, 'content-type': type } }).then(
      (answer) => answer.json() as Promise<{ id: number; state: string; revision: number | null }>,
    )
  const { id } = await send('/imports?name=grid.csv', 'POST', table(), 'text/csv')
  const state = async () => (await site.api(`/imports/${id}?wait=1000`)) as { counts: { added: number } | null; revision: number | null }
  await until(state, ({ counts }) => counts?.added === count, 120)
  await send(`/imports/${id}/apply`, 'POST', '{}', 'application/json')
  await until(state, ({ revision }) => revision !== null, 300)
  const status = async () => (await site.api('/status')) as { tags: number; goodTags: number } | null
  await until(status, (now) => now?.tags === count && now.goodTags === count, 300)
}

/** Scrolls for a while and takes the time of each frame, ms. Runs in the browser. */
const scrolled = `
  const [selector, lasts, done] = [arguments[0], arguments[1], arguments[2]]
  const scroller = document.querySelector(selector)
  const frames = []
  let [before, began] = [performance.now(), performance.now()]
  const turn = () => {
    const now = performance.now()
    frames.push(now - before)
    before = now
    scroller.scrollTop += 40
    if (now - began < lasts) requestAnimationFrame(turn)
    else done(frames.slice(1))
  }
  requestAnimationFrame(turn)`

const open = async (page: Browser, path: string, isThere: string): Promise<number> => {
  const began = performance.now()
  await page.go(path)
  await until(() => page.driver.executeScript<boolean>(isThere), Boolean, 60)
  return performance.now() - began
}

/** The calmest of some, for both sides alike: the processors are shared with others. */
const scroll = async (page: Browser, selector: string): Promise<Frames> => {
  await page.driver.manage().setTimeouts({ script: 60_000 })
  const found: Frames[] = []
  for (let i = 0; i < scrolls; i++) {
    const frames = (await page.driver.executeAsyncScript<number[]>(scrolled, selector, scrollMs)).sort((a, b) => a - b)
    found.push({ median: frames[frames.length >> 1]!, worst: frames.at(-1)! })
  }
  return found.sort((a, b) => a.worst - b.worst)[0]!
}

/** The plain page: one table with a row for each tag, and a timer that writes into those that change. */
const plainPage = () => {
  const rows = Array.from(
    { length: count },
    (_, i) => `<tr><td>grid/${i}</td><td id="v${i}">0</td><td>kW</td><td>float64</td><td>constant</td><td></td><td>read</td></tr>`,
  ).join('')
  return `<!doctype html><div id="s" style="height:800px;overflow:auto"><table>${rows}</table></div><script>
    setInterval(() => { for (let i = 0; i < ${changing}; i++) document.getElementById('v' + i).textContent = Math.random().toFixed(4) }, 1000)</script>`
}

const plain = async (): Promise<Measured> => {
  const text = plainPage()
  const server = createServer((_, response) => response.setHeader('content-type', 'text/html').end(text))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const page = await openBrowser(`http://127.0.0.1:${(server.address() as AddressInfo).port}`)
  try {
    const atRestMs = await open(page, '/', 'return document.querySelector("#s tr") !== null && document.readyState === "complete"')
    return { afterImportMs: atRestMs, atRestMs, ...(await scroll(page, '#s')) }
  } finally {
    await page.close()
    server.close()
  }
}

const ours = async (): Promise<Measured> => {
  const site = await startSite()
  try {
    await fill(site)
    const page = await openBrowser(site.base, site.cookie)
    try {
      // once, so that the browser has what it keeps
      await page.go('/tags')
      const there = 'return [...document.querySelectorAll(".slot")].filter((row) => row.innerText.includes("value_")).length > 5'
      const afterImportMs = await open(page, '/tags/grid', there)
      await until(() => site.api('/notes?limit=1'), Boolean, 60)
      const atRestMs = await open(page, '/tags/grid', there)
      return { afterImportMs, atRestMs, ...(await scroll(page, '.grid .scroller')) }
    } finally {
      await page.close()
    }
  } finally {
    await site.stop()
  }
}

export const gridCase = async (): Promise<Section> => {
  const [first, second] = [await ours(), await plain()]
  const ms = (value: number) => `${Math.round(value)} ms`
  const row = (what: string, key: keyof Measured, aim: string) => ({
    what,
    ours: ms(first[key]),
    plain: ms(second[key]),
    ratio: times(first[key] / second[key]),
    aim,
  })
  return {
    title: `The grid of ${count.toLocaleString('en-GB')} tags, ${changing.toLocaleString('en-GB')} of them changing each second`,
    how: `Debian’s Chromium without a monitor or graphics hardware, with engine, web and database beside it on the same processors; scrolled for ${scrollMs / 1000} s, 40 pixels a frame, over rows that change, ${scrolls} times, of which the calmest counts on either side. Plain: one table with a row for each tag, served as a file, and a timer that writes into those that change; nothing of it can be edited, and no engine runs beside it.`,
    rows: [
      row('until the first rows are there', 'atRestMs', 'under 1.5 s'),
      row('the same right after all of them were imported, while engine and notes still take them in', 'afterImportMs', '—'),
      row('a frame while it is scrolled, the middle one', 'median', '—'),
      row('the longest frame', 'worst', 'under 50 ms'),
    ],
  }
}
