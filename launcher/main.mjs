import { back } from './commands/back.mjs'
import { backup, restore } from './commands/backup.mjs'
import { bench } from './commands/bench.mjs'
import { site, tags } from './commands/data.mjs'
import { database } from './commands/database.mjs'
import { demo } from './commands/demo.mjs'
import { node } from './commands/node.mjs'
import { password } from './commands/password.mjs'
import { run, start } from './commands/start.mjs'
import { service } from './commands/service.mjs'
import { soak } from './commands/soak.mjs'
import { standby } from './commands/standby.mjs'
import { stop } from './commands/stop.mjs'
import { test } from './commands/test.mjs'

const help = `Keen Conduit

  ./conduit demo       everything with the demo port: simulated devices, data, web application
  ./conduit start      the runtime and the web application, in the background
  ./conduit run        the same in the foreground, for a service manager
  ./conduit stop       stops what start started
  ./conduit site       the configuration as a text: export, check, compare, apply
  ./conduit tags       tags as a table: export, check, apply
  ./conduit backup     the whole site as one file, while it runs or stands
  ./conduit restore    makes the site of such a file here
  ./conduit back       after an upgrade: back to how the database was before
  ./conduit node       this machine as a node of a site elsewhere: it runs links
  ./conduit standby    this machine as one that stands by for a site, and leads it when need be
  ./conduit database   where the data of the site is, or moves it to a server that several machines reach
  ./conduit password   a new password for “admin”, or for whoever is named after it
  ./conduit service    prints a systemd unit that starts it with the machine
  ./conduit test       lint, types, unit, engine and browser tests
  ./conduit bench      measures our paths against plain scripts, writes docs/benchmarks.md
  ./conduit soak       uses a site while its processes are killed and stopped at random
  ./conduit help       this text

State, logs and the database live in .state below the project, or in CONDUIT_STATE.
CONDUIT_PORT sets the port of the web application.
`

/** @type {Record<string, () => Promise<number | void> | number | void>} */
const commands = {
  demo,
  start,
  run,
  stop,
  site,
  tags,
  backup,
  restore,
  back,
  node,
  standby,
  database,
  password,
  service,
  test,
  bench,
  soak,
  help: () => console.log(help),
}

const name = process.argv[2] ?? 'help'
const command = commands[name]
if (!command) {
  console.error(`There is no command “${name}”.\n\n${help}`)
  process.exit(2)
}
try {
  process.exitCode = (await command()) ?? 0
} catch (error) {
  console.error(error instanceof Error ? error.message : error)
  process.exitCode = 1
}
