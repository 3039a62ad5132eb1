import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'

/** Machines of one’s own: network namespaces with cables between, packet filters and sizes of packets, all of the kernel. */

// of the system: packages bring programs of the same names
const env = { ...process.env, PATH: `/usr/sbin:/sbin:/usr/bin:/bin:${process.env.PATH}` }
const said = { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], env } as { encoding: 'utf8'; env: NodeJS.ProcessEnv }
const ip = (...args: string[]) => execFileSync('ip', args, said)

/** Whether this machine lets us make such; else tests that need them are left out, and say so. */
export const canMakeNetworks = (() => {
  const name = `kc-try-${process.pid}`
  const made = spawnSync('ip', ['netns', 'add', name], { env }).status === 0
  if (made) spawnSync('ip', ['netns', 'del', name])
  return made && spawnSync('nft', ['list', 'ruleset'], { env }).status === 0
})()

/** Numbers are taken by what the kernel lets exist once, so that tests beside each other never have the same. */
const takeNumber = (): number => {
  for (let tries = 0; tries < 120; tries++) {
    const n = 2 * ((process.pid + 37 * tries) % 120)
    if (spawnSync('ip', ['netns', 'add', endOf(n)], { env }).status === 0) return n
  }
  throw new Error('no number for a network is free: ip netns list')
}
const endOf = (n: number) => `kc-${n}-end`

/** A machine beside us, or one behind a router; each with programs, rules and cables of its own. */
export class Network {
  private readonly key = takeNumber()
  private programs: ChildProcess[] = []
  private ownTables = 0
  readonly ours: string
  readonly far: string
  readonly router: string | null

  constructor(readonly isRouted: boolean) {
    const n = this.key
    this.ours = `10.77.${n}.1`
    this.router = isRouted ? `10.77.${n}.2` : null
    this.far = isRouted ? `10.77.${n + 1}.2` : `10.77.${n}.2`
    const { near, way, end } = this
    if (!isRouted) {
      ip('link', 'add', near, 'type', 'veth', 'peer', 'name', 'eth0', 'netns', end)
      this.address(end, 'eth0', `${this.far}/24`)
    } else {
      ip('netns', 'add', way)
      ip('link', 'add', near, 'type', 'veth', 'peer', 'name', 'in', 'netns', way)
      ip('-n', way, 'link', 'add', 'out', 'type', 'veth', 'peer', 'name', 'eth0', 'netns', end)
      this.address(way, 'in', `${this.router}/24`)
      this.address(way, 'out', `10.77.${n + 1}.1/24`)
      this.address(end, 'eth0', `${this.far}/24`)
      ip('-n', end, 'route', 'add', 'default', 'via', `10.77.${n + 1}.1`)
      this.on('router', 'sysctl', '-qw', 'net.ipv4.ip_forward=1')
    }
    ip('addr', 'add', `${this.ours}/24`, 'dev', near)
    ip('link', 'set', near, 'up')
    if (isRouted) ip('route', 'add', `10.77.${n + 1}.0/24`, 'via', this.router!)
  }

  private get near() {
    return `kc${this.key}`
  }
  private get way() {
    return `kc-${this.key}-way`
  }
  private get end() {
    return endOf(this.key)
  }

  private address(where: string, name: string, address: string) {
    ip('-n', where, 'addr', 'add', address, 'dev', name)
    ip('-n', where, 'link', 'set', name, 'up')
    ip('-n', where, 'link', 'set', 'lo', 'up')
  }

  on(where: 'far' | 'router', ...command: string[]): string {
    const name = where === 'far' ? this.end : this.way
    return execFileSync('ip', ['netns', 'exec', name, ...command], said)
  }

  /** A packet filter with one chain; on this machine for addresses of this network only. */
  filter(where: 'here' | 'far' | 'router', hook: 'input' | 'output' | 'forward', ...rules: string[]) {
    const table = `kc_${this.key}_${this.ownTables++}`
    const script = ['table inet ' + table + ' {', 'chain rules {', `type filter hook ${hook} priority 0;`, ...rules, '}', '}'].join('\n')
    if (where === 'here') execFileSync('nft', [script], said)
    else this.on(where, 'nft', script)
    const gone = () =>
      where === 'here'
        ? execFileSync('nft', ['delete', 'table', 'inet', table], said)
        : this.on(where, 'nft', 'delete', 'table', 'inet', table)
    if (where === 'here') this.here.push(gone)
    return gone
  }
  private here: (() => unknown)[] = []

  /** An address translation of the router. */
  translate(hook: 'prerouting' | 'postrouting', ...rules: string[]) {
    const table = `kc_${this.key}_${this.ownTables++}`
    this.on(
      'router',
      'nft',
      ['table ip ' + table + ' {', 'chain rules {', `type nat hook ${hook} priority 0;`, ...rules, '}', '}'].join('\n'),
    )
  }

  /** The router forgets connections over which nothing passes for so many seconds, and lets nothing through that belongs to none. */
  forgetAfter(seconds: number) {
    this.filter('router', 'forward', 'ct state invalid drop')
    this.on('router', 'sysctl', '-qw', 'net.netfilter.nf_conntrack_tcp_loose=0')
    this.on('router', 'sysctl', '-qw', `net.netfilter.nf_conntrack_tcp_timeout_established=${seconds}`)
  }

  /** Through the router small packets pass only, and nobody is told so. */
  narrow(bytes: number) {
    for (const side of ['in', 'out']) this.on('router', 'ip', 'link', 'set', side, 'mtu', String(bytes))
    this.filter('router', 'output', 'icmp type destination-unreachable drop')
  }

  /** Makes a server of this machine one of the far machine, on a port of it. */
  async offer(port: number, local: number) {
    const folder = mkdtempSync(join(tmpdir(), 'conduit-far-'))
    const path = join(folder, 'socket')
    const server = createServer((near) => {
      const there = connect(local, '127.0.0.1')
      for (const [one, other] of [
        [near, there],
        [there, near],
      ] as const)
        one.on('error', () => {}).on('close', () => other.destroy())
      near.pipe(there).pipe(near)
    })
    await new Promise<void>((resolve) => server.listen(path, resolve))
    this.servers.push(() => {
      server.close()
      rmSync(folder, { recursive: true, force: true })
    })
    const args = ['netns', 'exec', this.end, 'socat', '-d', '-d', `TCP-LISTEN:${port},fork,reuseaddr`, `UNIX-CONNECT:${path}`]
    const child = spawn('ip', args, { stdio: ['ignore', 'ignore', 'pipe'], env })
    this.programs.push(child)
    const lines = createInterface({ input: child.stderr! })
    await new Promise<void>((resolve) => lines.on('line', (line) => line.includes('listening on') && resolve()))
  }
  private servers: (() => void)[] = []

  /** From there out everything gets, by the address of the router; of what comes from here only answers get in. */
  lockIn() {
    this.translate('postrouting', 'oifname "in" masquerade')
    this.filter('router', 'forward', 'iifname "in" ct state new drop')
  }

  /** Pulls the plug of a machine. */
  unplug(where: 'far' | 'router') {
    ip('-n', where === 'far' ? this.end : this.way, 'link', 'set', where === 'far' ? 'eth0' : 'in', 'down')
  }

  /** Leaves this machine without a way there; nothing of it goes out by another one. */
  forgetRoute() {
    ip('route', 'replace', 'unreachable', this.far.replace(/\d+$/, '0/24'))
  }

  /** Runs a program on the machine at the end until it says its first line. */
  run(script: string, ...args: string[]): Promise<ChildProcess> {
    return this.runWith({}, script, ...args)
  }

  async runWith(more: Record<string, string>, script: string, ...args: string[]): Promise<ChildProcess> {
    const child = spawn('ip', ['netns', 'exec', this.end, process.execPath, '--import', 'tsx', script, ...args], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...env, ...more },
    })
    this.programs.push(child)
    await new Promise<void>((resolve, reject) => {
      createInterface({ input: child.stdout! }).once('line', () => resolve())
      child.once('exit', (code) => reject(new Error(`${script} ended with ${code}`)))
    })
    return child
  }

  close() {
    for (const child of this.programs) child.kill('SIGKILL')
    for (const end of this.servers) end()
    for (const gone of this.here)
      try {
        gone()
      } catch {
        // it went with what a test did
      }
    spawnSync('ip', ['route', 'del', 'unreachable', this.far.replace(/\d+$/, '0/24')])
    spawnSync('ip', ['link', 'del', this.near])
    for (const name of [this.way, this.end]) spawnSync('ip', ['netns', 'del', name])
  }
}
