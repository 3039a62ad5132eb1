import { numbered, type CodeFamily, type Row } from './explanation'

/** Errors of the operating system on this side (POSIX.1-2017, errno.h; numbers as Linux has them). */
const reach = ['The host is off or has another address.', 'A router or a firewall on the way.']
const rows: Readonly<Record<number, Row>> = {
  1: [
    'EPERM',
    'this is not permitted',
    ['The process lacks a right.', 'A local firewall refuses what we send.'],
    ['Look at the rules of this machine: nft list ruleset', 'Look at the user under which the process runs.'],
  ],
  2: [
    'ENOENT',
    'there is no such file or folder',
    ['A path is misspelt.', 'A drive or share is not mounted.'],
    ['Look whether the path is there: ls -l', 'Look at what is mounted: findmnt'],
  ],
  5: [
    'EIO',
    'the device failed while it was read or written',
    ['A failing disk, a serial adapter that was pulled out.'],
    ['Look at the system’s log: dmesg', 'Try another adapter or disk.'],
  ],
  11: [
    'EAGAIN',
    'not now: it would have to wait',
    ['The far side is slower than we send.', 'A limit of processes or memory is reached.'],
    ['Look at load and limits: ulimit -a'],
  ],
  12: ['ENOMEM', 'there is no memory left', ['Something uses it up.'], ['Look who: free -h, top']],
  13: [
    'EACCES',
    'access is denied',
    ['The user of the process has no right to that file or port.'],
    ['Look at owner and rights: ls -l', 'Ports below 1024 need a right of their own.'],
  ],
  16: ['EBUSY', 'it is in use', ['Another program holds the device.'], ['Look who: fuser -v PATH']],
  17: ['EEXIST', 'it is there already', [], ['Take another name.']],
  22: [
    'EINVAL',
    'something that was asked for makes no sense there',
    ['An address of another kind than the interface, an option that the system does not know.'],
    ['Look at the local interface that was chosen.'],
  ],
  23: ['ENFILE', 'the system has too many open files', [], ['Look who holds them: lsof']],
  24: [
    'EMFILE',
    'the process has too many open files or connections',
    ['Connections are not closed.'],
    ['Raise the limit (ulimit -n), and look what holds them.'],
  ],
  27: ['EFBIG', 'the file would be too large', [], ['Look at the limits of the file system.']],
  28: [
    'ENOSPC',
    'the disk is full',
    ['Logs, spools or the database fill it.'],
    ['See what takes room: df -h, then du -xh --max-depth=2 /', 'Files without room for names: df -i'],
  ],
  30: [
    'EROFS',
    'the file system can only be read',
    ['It was mounted so, or the system made it so after a failure of the disk.'],
    ['Look at dmesg; then mount it anew for writing.'],
  ],
  32: [
    'EPIPE',
    'the far side has closed, and we still wrote',
    ['It ended, or refused what came before.'],
    ['Look at what was sent last, and at the log there.'],
  ],
  71: [
    'EPROTO',
    'the far side does not keep to the protocol',
    ['Another service on the port, TLS against none.'],
    ['Look at what listens there.'],
  ],
  98: [
    'EADDRINUSE',
    'the port is taken on this machine',
    ['Another program, or our own old process.'],
    ['See who: ss -ltnp, ss -lunp', 'Choose another port.'],
  ],
  99: [
    'EADDRNOTAVAIL',
    'this machine has no such address',
    ['The interface is down or got another address.'],
    ['See what is there: ip address', 'Leave the interface open in the settings.'],
  ],
  100: [
    'ENETDOWN',
    'the network interface is down',
    ['The cable is out, or the interface was switched off.'],
    ['ip link; then plug it in, or ip link set NAME up'],
  ],
  101: [
    'ENETUNREACH',
    'this machine has no route to that network',
    ['No default router, a wrong mask.'],
    ['ip route get ADDRESS', 'Give the machine a route.'],
  ],
  103: ['ECONNABORTED', 'the connection was given up before it stood', ['The far side gave up while it waited.'], ['Look at its load.']],
  104: [
    'ECONNRESET',
    'the far side ended the connection at once',
    [
      'Its limit of connections is reached.',
      'It does not let this machine in.',
      'It was started anew.',
      'A firewall ends connections that were idle.',
    ],
    ['Look at its own list of clients and its log.', 'See after how long it happens: always the same time speaks for a firewall.'],
  ],
  107: ['ENOTCONN', 'there is no connection', ['It ended before.'], ['Look at what happened before it.']],
  110: [
    'ETIMEDOUT',
    'nobody answered in time',
    [...reach, 'The packets come, and the answers do not find back.'],
    ['ping the host; then try its port: nc -vz HOST PORT', 'Look at the path check of the link.'],
  ],
  111: [
    'ECONNREFUSED',
    'the host is there, and nobody listens on that port',
    ['The service is not started, or listens on another port or for its own machine only.', 'A firewall that rejects.'],
    ['On that host: ss -ltn', 'Compare the port.'],
  ],
  112: ['EHOSTDOWN', 'the host does not answer on our segment', reach, ['ip neigh; look at its power and plug.']],
  113: [
    'EHOSTUNREACH',
    'the host cannot be reached',
    ['It is off, or has another address on our segment.', 'A firewall says that this is prohibited.'],
    ['ip neigh shows whether its network card answers.', 'ip route get ADDRESS'],
  ],
}

/** Names that have no number of their own: the name service, and what libraries say. */
const named: Readonly<Record<string, Row>> = {
  ENOTFOUND: [
    'ENOTFOUND',
    'the name service was asked, and knows no such name',
    ['A misspelt name.', 'A name that only another network knows.'],
    ['getent hosts NAME', 'Enter the numeric address.'],
  ],
  EAI_AGAIN: [
    'EAI_AGAIN',
    'the name service gives no answer now',
    ['It is away, or a firewall stops UDP and TCP 53.'],
    ['cat /etc/resolv.conf; then ask that one: getent hosts NAME'],
  ],
  EAI_FAIL: ['EAI_FAIL', 'the name service failed for good', [], ['Look at the log of the name server.']],
}

export const posix = numbered('operating system (errno)', /\berrno\b|\bsyscall\b|\bos error\b|\berror\b/i, rows, (code) => `errno ${code}`)
export const nameService: CodeFamily = {
  title: 'name service',
  find: ({ words }) =>
    Object.entries(named).flatMap(([code, [name, said, causes = [], checks = []]]) =>
      words.has(code) ? [{ family: 'name service', code, name, words: said, causes: [...causes], checks: [...checks] }] : [],
    ),
}
