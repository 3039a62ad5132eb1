import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Builder, By, Key, until as located, type WebElement } from 'selenium-webdriver'
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js'
import { until } from './until'

const patience = 40
const waitMs = patience * 1000

/** Runs in the browser: follows a link to a path within the application; false: there is none, or it does not come there. */
const goWithin = `
  const [path, done] = arguments
  const router = document.querySelector('main') && document.querySelector('#__nuxt')?.__vue_app__?.config.globalProperties.$router
  const [wanted] = path.split(/[?#]/)
  if (!router || router.currentRoute.value.path === wanted) return done(false)
  setTimeout(() => done(false), 5000)
  document.querySelector('.page')?.setAttribute('data-before', '')
  router.push(path).then((failure) => done(!failure && location.pathname === wanted), () => done(false))`

/** A moment later it may go. */
const passing = new Set(['ElementClickInterceptedError', 'StaleElementReferenceError'])

/** Debian's Chromium without a monitor, with words for what a person does and sees. */
export const openBrowser = async (base: string, cookie: string | null = null) => {
  const profile = mkdtempSync(join(tmpdir(), 'conduit-browser-'))
  const options = new Options()
  options.setChromeBinaryPath('/usr/bin/chromium')
  options.addArguments(
    '--headless',
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    // what moves is drawn sixty times a second, by the processors that the site runs on
    '--force-prefers-reduced-motion',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--window-size=1280,900',
    `--user-data-dir=${profile}`,
  )
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
    .build()

  if (cookie) {
    const [name, value] = cookie.split('=') as [string, string]
    await driver.get(`${base}/sign-in`)
    await driver.manage().addCookie({ name, value })
  }

  const find = (css: string): Promise<WebElement> => driver.wait(located.elementLocated(By.css(css)), waitMs)
  const withText = (tag: string, text: string) => By.xpath(`//${tag}[contains(normalize-space(.), ${JSON.stringify(text)})]`)
  const field = (label: string) =>
    driver.wait(
      located.elementLocated(
        By.xpath(`//label[normalize-space(.) = "${label}"]/..//*[self::input or self::textarea] | //input[@aria-label = "${label}"]`),
      ),
      waitMs,
    )
  const text = () => driver.executeScript<string>('return document.body.innerText')

  /** What is covered for a moment, as by a menu that still opens, is waited for; what is drawn anew meanwhile is looked up again. */
  const clickOn = (locator: By) =>
    until(async () => {
      try {
        const element = await driver.wait(located.elementLocated(locator), waitMs)
        await driver.wait(located.elementIsEnabled(element), waitMs)
        await element.click()
        return true
      } catch (why) {
        if (!passing.has((why as Error).name)) throw why
        return false
      }
    })

  const press = (label: string) => clickOn(By.xpath(`(//button | //a)[normalize-space(.) = ${JSON.stringify(label)}]`))

  return {
    driver,
    /** Opens a page of the site, as a link within it would where one is open; else, or where it is the same, it is loaded anew. */
    go: async (path: string) => {
      if (!(await driver.executeAsyncScript<boolean>(goWithin, path))) return driver.get(base + path)
      // the page before stays until what the next one asks for is there; one that serves both takes on the next one’s place
      const isGone = () => driver.executeScript<boolean>('return !document.querySelector("[data-before]")')
      await until(isGone, Boolean, 3).catch(() =>
        driver.executeScript('document.querySelector("[data-before]")?.removeAttribute("data-before")'),
      )
    },
    /** Opens a page as a stranger who follows a link from elsewhere. */
    load: (path: string) => driver.get(base + path),
    text,
    find,
    press,
    pressAt: (css: string) => clickOn(By.css(css)),
    /** The texts of all that is there now. */
    texts: (css: string) =>
      driver.executeScript<string[]>('return [...document.querySelectorAll(arguments[0])].map(({ innerText }) => innerText)', css),
    pressContaining: (words: string) => clickOn(By.xpath(`(//button | //a)[contains(., ${JSON.stringify(words)})]`)),
    /** What is there now, or not any more once it is to be pressed. */
    pressIfThere: async (label: string) => {
      const [found] = await driver.findElements(By.xpath(`//button[normalize-space(.) = ${JSON.stringify(label)}]`))
      await found?.click().catch(() => {})
    },
    /** Types into a field, over what stands there. */
    type: async (label: string, words: string) => {
      const element = await field(label)
      const typed = () => element.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, words)
      await typed()
      // on a busy machine the keys that empty the field may be lost
      if ((await element.getAttribute('value')) !== words) await typed()
    },
    typeInto: async (css: string, words: string) => {
      const box = await find(css)
      const element = (await box.getTagName()) === 'input' ? box : await box.findElement(By.css('input'))
      await element.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, words)
    },
    /** Opens a place in the last column that has one of that name. */
    pressRow: (name: string) =>
      clickOn(By.xpath(`(//*[@data-column]//*[@role="option"][.//*[normalize-space(.) = ${JSON.stringify(name)}]])[last()]`)),
    pressBox: (label: string) => clickOn(By.css(`[aria-label="${label}"]`)),
    /** Turns a switch. */
    turn: (label: string) => clickOn(By.xpath(`//label[normalize-space(.) = ${JSON.stringify(label)}]`)),
    leave: async (label: string) => (await field(label)).sendKeys(Key.TAB),
    valueOf: async (label: string) => (await field(label)).getAttribute('value'),
    /** Opens a list and takes an option. The list may be drawn anew meanwhile, so it is looked up afresh until it is done. */
    choose: async (label: string, option: string) => {
      const shown = await (await field(label)).findElement(By.xpath('ancestor::div[contains(@class, "v-field__input")]'))
      const item = By.xpath(
        `//div[contains(@class, "v-overlay--active")]//*[contains(@class, "v-list-item-title")][normalize-space(.) = "${option}"]`,
      )
      await until(async () => {
        if ((await shown.getText()).trim() === option) return true
        const [found] = await driver.findElements(item)
        await (found ?? shown).click().catch(() => {})
        return false
      })
    },
    /** Adds an option to those chosen in a list of several, or takes it out again. */
    choosePlus: async (label: string, option: string) => {
      const shown = await (await field(label)).findElement(By.xpath('ancestor::div[contains(@class, "v-field__input")]'))
      const isIn = async () => (await shown.getText()).split(/,\s*|\n/).includes(option)
      const before = await isIn()
      const item = By.xpath(
        `//div[contains(@class, "v-overlay--active")]//*[contains(@class, "v-list-item-title")][normalize-space(.) = "${option}"]`,
      )
      await until(async () => {
        if ((await isIn()) !== before) return true
        const [found] = await driver.findElements(item)
        await (found ?? shown).click().catch(() => {})
        return false
      })
      await driver.actions().sendKeys(Key.ESCAPE).perform()
      await until(async () => (await driver.findElements(By.css('.v-overlay--active'))).length === 0)
    },
    row: (words: string) => driver.wait(located.elementLocated(withText('*[@role="row" or self::tr]', words)), waitMs),
    /** Waits until words are on the page; fails with them and what stands there beside the frame of all pages. */
    sees: (words: string | RegExp, seconds = patience) =>
      until(text, (seen) => (typeof words === 'string' ? seen.includes(words) : words.test(seen)), seconds).catch(async () => {
        const shown = await driver.executeScript<string>('return (document.querySelector("main") ?? document.body).innerText')
        throw new Error(`no ${String(words)} after ${seconds} s on the page ${JSON.stringify(shown)}`)
      }),
    close: async () => {
      await driver.quit()
      rmSync(profile, { recursive: true, force: true })
    },
  }
}

export type Browser = Awaited<ReturnType<typeof openBrowser>>
