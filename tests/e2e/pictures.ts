import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { openBrowser, type Browser } from '../support/browser'
import { signInTo } from '../support/signIn'

/**
 * Takes the pictures of docs/screenshots from a running demo: `npm run pictures`, with the
 * application's address as an argument where it is not the usual one.
 */
const base = process.argv[2] ?? 'http://127.0.0.1:8480'

const take = async (page: Browser, name: string) => {
  await page.driver.sleep(1500)
  writeFileSync(`docs/screenshots/${name}.png`, Buffer.from(await page.driver.takeScreenshot(), 'base64'))
}

const sized = async (page: Browser) => {
  const [width, height] = (await page.driver.executeScript('return [outerWidth - innerWidth + 1280, outerHeight - innerHeight + 800]')) as [
    number,
    number,
  ]
  await page.driver.manage().window().setRect({ width, height })
}

const ofDemo = async (page: Browser) => {
  await page.go('/')
  await page.sees('Berth meters')
  await sized(page)
  await take(page, 'line-up')
  await page.go('/links/1')
  await page.sees('The device answers.')
  await take(page, 'link')
  await page.go('/tags?below=berth/1/shore')
  await (await page.row('active_power')).click()
  await page.sees('Readings of the same words')
  await take(page, 'tags')
  await page.go('/traffic?link=1')
  await page.sees(/\d{3} frames/, 30)
  await page.press('Hold')
  await (await page.find('.slot:nth-child(5)')).click()
  await page.sees(/(Request|Answer) of/)
  await take(page, 'traffic')
  await page.go('/links/4/path')
  await page.sees('does not trust the certificate of this machine')
  await take(page, 'path')
  await page.go('/tags/take?link=2')
  for (const name of ['CableArm', 'Programs', 'Plug', 'Position']) await page.pressRow(name)
  for (const label of ['Take Limits', 'Take Actual']) await page.pressBox(label)
  await page.pressRow('Extension')
  await page.type('Below the folder', 'berth/1/arm')
  await take(page, 'take-points')
  await page.go('/bridges/1')
  await page.sees(/\d{2,} runs/)
  await take(page, 'bridge')
  await page.go('/records/1')
  await page.sees(/row \d+ of 18[\s\S]*Good/)
  await take(page, 'records')
  await page.go('/bench/block')
  await page.type('First register', '11:holding/40')
  await page.type('How many registers', '14')
  await page.press('Watch')
  await page.sees(/Watched for 1\d s/, 30)
  await take(page, 'bench')
  await page.go('/outlets/5')
  await page.sees(/As it is here\.[\s\S]*Name, port/)
  await take(page, 'platform')
  await checkSheet(page)
  await page.go('/alarms')
  await page.sees(/high: above 60 %/, 100)
  await take(page, 'alarms')
  await page.go('/displays')
  await page.sees('The port now')
  await (await page.row('The port now')).click()
  await page.sees('Breaker of berth 1')
  await page.driver.sleep(2000)
  await take(page, 'displays')
  await page.go('/links/11')
  await page.sees(/Arrived at port 3[\s\S]*Surface temperature[\s\S]*First value/)
  await take(page, 'arrivals')
  await page.go('/equipment')
  for (const name of ['Shore power', 'Berth 2', 'Feeder']) await page.pressContaining(name)
  await page.sees('Energy today')
  await take(page, 'equipment')
  await page.go('/trends?set=2')
  await page.sees('every change')
  await take(page, 'trends')
  for (const name of ['outlets/1', 'site']) {
    await page.go(`/${name}`)
    await page.driver
      .switchTo()
      .alert()
      .accept()
      .catch(() => {})
    await take(page, name.replace('s/1', ''))
  }
  await page.go('/tags/import')
  await (await page.find('input[type=file]')).sendKeys(await feederTable(page))
  await (await page.find('.card.changed')).click()
  await take(page, 'import')
  await page.press('Put away')
}

/** A sheet of berth 1 on which somebody is at work. */
const checkSheet = async (page: Browser) => {
  await page.go('/tags/checks')
  await page.press('New sheet')
  await page.type('Name', 'Berth 1 against its panel')
  await page.type('Against', 'Panel of berth 1')
  await page.type('Tags, or folders with all that lies in them', 'berth/1/shore')
  await page.press('Make sheet')
  const outcomes = ['Good', 'Good', 'Not good', 'Good']
  await (await page.find('.slot:nth-child(1)')).click()
  for (const outcome of outcomes) {
    await page.press('Take what is read now')
    await page.sees(/\d steps?/)
    await page.type('Expected', (await page.valueOf('Seen here')) ?? '')
    if (outcome === 'Not good') await page.type('Remark', 'the panel shows the other phase')
    await page.press(outcome)
  }
  await page.press('Take what is read now')
  await page.sees(/\d steps?/)
  await page.pressAt('.evidence summary')
  await take(page, 'checks')
}

/** The meters’ tags as somebody gave them back: other gains, quicker, some new, one wrong. */
const feederTable = async (page: Browser) => {
  const table =
    'return (await fetch("/api/tags/table.csv?find=shore&delimiter=;&decimal=,&columns=path,link,address,type,gain,unit,interval")).text()'
  const lines = (await page.driver.executeScript<string>(table)).trim().split('\r\n')
  const changed = lines.map((line, i) => {
    const cells = line.split(';')
    if (i > 0 && cells[4] === '0,1') cells[4] = '0,01'
    if (i > 0 && i % 4 === 1) cells[6] = '500 ms'
    if (i === 9) cells[2] = 'holding/70000'
    return cells.join(';')
  })
  const added = Array.from({ length: 12 }, (_, i) => `berth/4/shore/current_l${i + 1};Berth meters;11:holding/${50 + i};int16;0,1;A;`)
  const file = join(mkdtempSync(join(tmpdir(), 'conduit-pictures-')), 'feeders_rev7.csv')
  writeFileSync(file, [...changed, ...added].join('\r\n'))
  return file
}

const page = await openBrowser(base, await signInTo(base, 'harbourmaster', 'harrow-sound'))
await ofDemo(page)
await page.close()
