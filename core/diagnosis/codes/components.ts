import { explained, hex, type CodeFamily, type Explanation, type Row } from './explanation'

/**
 * Result codes of component-based connections (remote procedures and objects of one operating system), as classic OPC servers and
 * clients give them: 32 bits, in hexadecimal or as a negative decimal number. 0x8007xxxx carries a plain error number of the system.
 */

const trust = [
  'Both machines have to know the user: the same name and password on both, or one domain.',
  'Its rights to start and to access from afar are too narrow.',
]
const firewallOf = [
  'A firewall lets port 135 in, and not the ports that are agreed afterwards.',
  'The service of remote procedures is not started there.',
]

/** By the plain error number. */
const plain: Readonly<Record<number, Row>> = {
  2: [
    'file not found',
    'there is no such file',
    ['The program behind the class was removed.'],
    ['Look at the path that is registered for the server.'],
  ],
  5: [
    'access denied',
    'whoever asks may not do this',
    trust,
    [
      'Which user does the client run under? Try with a user that both machines know.',
      'On the server’s machine: the rights to launch and to access, for the server and machine-wide.',
      'Whether guests only are let in for local users (the policy for sharing).',
    ],
  ],
  6: ['invalid handle', 'what was opened before is gone', ['The server was started anew.'], ['Connect anew.']],
  8: ['not enough memory', 'the system has no memory or no places left', [], ['Look at its load.']],
  14: ['out of memory', 'there is no memory left', [], ['Look at its load.']],
  53: [
    'network path not found',
    'the machine was not found under this name',
    ['A misspelt name, no name service, file and printer sharing switched off.'],
    ['ping it by name and by number.'],
  ],
  87: [
    'invalid parameter',
    'something that was given makes no sense there',
    ['A client of another version than the server.'],
    ['Look at the client’s log for what it called.'],
  ],
  126: [
    'module not found',
    'a library that it needs is not installed',
    ['The stubs of the interface are not registered on this machine.'],
    ['Install the common components of the standard on both machines.'],
  ],
  127: ['procedure not found', 'a library there is of another version', [], ['Install one version on both machines.']],
  193: [
    'not a valid program',
    'a program or library of the other width (32 or 64 bits) was loaded',
    [],
    ['Take the stubs and the server of one width.'],
  ],
  1115: ['shutdown in progress', 'the machine is being shut down', [], ['Wait until it is back.']],
  1326: [
    'logon failure',
    'the user name or password is not known there',
    trust,
    ['Sign in to a share of that machine with the same user, to see whether it is known.'],
  ],
  1327: [
    'account restriction',
    'the account may not sign in like this',
    ['An empty password, or a time that is not allowed.'],
    ['Give it a password.'],
  ],
  1330: ['password expired', 'its password has expired', [], ['Have a new one set; then in both places.']],
  1331: ['account disabled', 'the account is switched off', [], ['Have it switched on.']],
  1355: ['no such domain', 'the domain does not answer', ['Its controller cannot be reached.'], ['Use an account of that machine.']],
  1385: [
    'logon type not granted',
    'the account may not come over the network',
    [],
    ['Give it the right to access this computer from the network.'],
  ],
  1460: [
    'timeout',
    'it took too long',
    ['The way back is stopped: call-backs go to another port of the client’s machine.'],
    ['Look at the firewall of the client’s machine.'],
  ],
  1702: ['invalid binding', 'what was agreed on to reach it is not usable', [], ['Connect anew.']],
  1717: [
    'unknown interface',
    'the server does not offer this interface',
    ['It was not started fully, or is another version.'],
    ['Start it anew.'],
  ],
  1722: [
    'procedure server unavailable',
    'the machine, or its service of remote procedures, does not answer',
    ['The machine is off, or its name leads elsewhere.', ...firewallOf],
    [
      'ping it; then try its port: TCP 135.',
      'Let port 135 and the agreed range in, both ways.',
      'Look whether the services of remote procedures run there.',
    ],
  ],
  1723: ['procedure server too busy', 'it has too much to do', [], ['Look at its load.']],
  1726: [
    'remote procedure call failed',
    'it broke while the call was under way',
    ['The server crashed, or was ended.', 'A firewall cut the connection.'],
    ['Look at the log of that machine for the server’s end.'],
  ],
  1727: [
    'remote procedure call did not execute',
    'it broke before the call was made',
    ['The server was just started anew.'],
    ['Try again.'],
  ],
  1747: [
    'unknown authentication service',
    'both sides know no common way to prove who they are',
    [],
    ['Compare the level of authentication on both machines.'],
  ],
  1753: [
    'no more endpoints',
    'the port of the server is not known at its directory',
    ['The server is not started.', 'A firewall inspects remote procedures.'],
    ['Start it; then look at the firewall.'],
  ],
  1764: ['operation not supported', 'this kind of call is not offered', [], []],
  1780: [
    'null reference',
    'a stub got nothing where something had to be',
    ['Stubs of different versions on the two machines.'],
    ['Install one version of the common components on both.'],
  ],
  1783: [
    'bad stub data',
    'what came does not fit the stub',
    ['Stubs of different versions or widths.'],
    ['Install one version on both machines.'],
  ],
  1825: [
    'security package error',
    'proving who we are failed',
    trust,
    ['Compare the clocks of both machines; then user and level of authentication.'],
  ],
  1909: [
    'account locked',
    'the account is locked after failed attempts',
    [],
    ['Have it unlocked, and find who tries with the old password.'],
  ],
  1910: [
    'object exporter not found',
    'the address at which the object lives is not known: call-backs would not find back',
    [
      'An address translation between: the server tells an address that only its own network knows.',
      'The client’s machine has several network cards, and tells the wrong one.',
    ],
    [
      'Run a second copy beside the server, and relay over one connection.',
      'Set which address it tells, by the order of its network cards.',
    ],
  ],
  10013: [
    'permission denied',
    'the system does not allow this port or connection',
    ['A firewall or a reserved port.'],
    ['Choose another port.'],
  ],
  10048: ['address in use', 'the port is taken on that machine', [], ['See who: netstat -ano']],
  10051: ['network unreachable', 'there is no route to that network', [], ['route print']],
  10053: ['connection aborted', 'our own machine gave the connection up', ['A time-out, or a virus scanner.'], ['Look at its log.']],
  10054: [
    'connection reset',
    'the far side ended the connection at once',
    ['Its limit of connections, a new start, a firewall.'],
    ['Look at the far side’s log.'],
  ],
  10060: [
    'connection timed out',
    'nobody answered in time',
    ['Off, another address, or a firewall that swallows it.'],
    ['ping it; then try its port.'],
  ],
  10061: ['connection refused', 'the machine is there, and nobody listens on that port', [], ['netstat -an there.']],
  10065: ['no route to host', 'the machine cannot be reached', [], ['ping it.']],
  11001: [
    'host not found',
    'the name is not known',
    ['A misspelt name, or a name service that does not know it.'],
    ['nslookup NAME; or use the numeric address.'],
  ],
  11004: ['no data of that name', 'the name is known, without an address', [], ['nslookup NAME']],
  12007: ['name not resolved', 'the name is not known', [], ['nslookup NAME']],
  12029: ['cannot connect', 'the server was not reached', [], ['Try its port.']],
}

/** Codes of their own. */
const own: Readonly<Record<number, Row>> = {
  0x80000002: ['out of memory', 'there is no memory left'],
  0x80004001: ['not implemented', 'the server does not offer this'],
  0x80004002: [
    'no such interface',
    'the server does not offer this interface',
    ['The stubs of the interface are not registered on one of the machines.', 'The server is of an older version.'],
    [
      'Install the common components of the standard on both machines.',
      'Where only 64-bit or only 32-bit stubs are there, install the others, too.',
    ],
  ],
  0x80004005: ['unspecified error', 'it failed and does not say why', [], ['Look at the server’s own log at that moment.']],
  0x8000ffff: ['unexpected', 'something that should not happen', [], ['Look at the server’s own log.']],
  0x8000401a: [
    'identity of the server',
    'the user under which the server is to run could not be signed in',
    ['It is set to the interactive user, and nobody is signed in.'],
    ['Let it run as a service or under a named account.'],
  ],
  0x80008005: [
    'server did not start',
    'it did not come up in time',
    ['It hangs while it starts, or waits for somebody at the screen.'],
    ['Start it by hand on its machine.'],
  ],
  0x80010002: ['call cancelled', 'the call was taken back', ['It took too long.'], ['Look at the load of the server.']],
  0x80010105: [
    'the server failed',
    'the server met an error inside the call',
    ['It crashed on what it was asked for.'],
    ['Look at its log; ask for fewer items at once.'],
  ],
  0x80010108: ['object disconnected', 'the object that was called is gone', ['The server ended or was started anew.'], ['Connect anew.']],
  0x8001010a: ['retry later', 'it is busy with another call', [], ['Try again.']],
  0x8001011b: [
    'access to the call denied',
    'the call was refused for its security',
    trust,
    [
      'Compare the level of authentication on both machines: since hardening was made compulsory, the client needs at least packet integrity.',
    ],
  ],
  0x80040111: ['class not available', 'the program does not offer this class'],
  0x80040112: ['not licensed', 'there is no licence for it', [], ['Look at the server’s licence.']],
  0x80040154: [
    'class not registered',
    'this machine knows no such server',
    [
      'It is not installed here, or its registration is missing.',
      'It is registered for the other width (32 or 64 bits).',
      'The client looks on its own machine instead of the server’s.',
    ],
    ['Look at the list of servers of that machine.', 'Register it anew; run the client in the same width.'],
  ],
  0x80040155: [
    'interface not registered',
    'the stubs of the interface are missing',
    [],
    ['Install the common components of the standard on both machines.'],
  ],
  0x800401f0: ['not initialised', 'the client did not prepare for components', [], ['It is the client’s own mistake; take a newer one.']],
  0x800401f3: [
    'invalid class name',
    'no class is known under this name',
    ['The name of the server is misspelt, or it is not installed here.'],
    ['Take it from the list; or give its number (CLSID).'],
  ],
  0x800401fd: ['not connected', 'the object has no connection to its server', [], ['Connect anew.']],
  0x80040200: ['no such connection', 'call-backs were ended before'],
  0x80040201: ['too many call-backs', 'it takes no further client for call-backs', [], ['End other clients.']],
  0x80040202: [
    'call-backs refused',
    'the server could not connect back to the client',
    ['The client’s machine does not let the server’s user in.', 'A firewall on the client’s machine, or an address translation between.'],
    [
      'On the client’s machine: the rights to access, for the user of the server, machine-wide.',
      'Its firewall: let port 135 and the client’s program in.',
      'Reads by request work meanwhile; or run a second copy beside the server, and relay.',
    ],
  ],
  0x80070776: [
    'object exporter not found',
    'call-backs would not find back',
    ['An address translation between, or several network cards.'],
    ['Run a second copy beside the server, and relay over one connection.'],
  ],
  0x80080005: [
    'server execution failed',
    'the server could not be started',
    ['It crashed while starting, or its account may not start it.'],
    ['Start it by hand on its machine; look at its log.', 'Look at the rights to launch it.'],
  ],
  0x80090308: ['invalid token', 'what proves who we are was not understood', [], ['Compare the clocks; then the way to sign in.']],
  0x8009030c: ['logon denied', 'the user is not let in', trust, ['Try the user on that machine.']],
  0x80090311: ['no authority', 'the domain could not be asked', [], ['Look whether its controller is reached.']],
  0x80090322: [
    'wrong principal',
    'the far side is another one than its name says',
    ['A name that leads to another machine.'],
    ['nslookup NAME; compare.'],
  ],
  0x80090325: [
    'untrusted root',
    'its certificate comes from an authority that is not known here',
    [],
    ['Get the certificate of the authority, and trust it.'],
  ],
  0x80090327: ['certificate unknown', 'its certificate was not accepted', [], ['Look at what speaks against it.']],
  0x80090328: ['certificate expired', 'its certificate has expired', [], ['Have it renewed; compare the clocks.']],
  0xc0040001: ['invalid handle', 'the server does not know this item any more', ['It was started anew.'], ['Connect anew.']],
  0xc0040004: ['bad type', 'the value cannot be given in the type that was asked for', [], ['Ask for its own type.']],
  0xc0040006: ['bad rights', 'the item may not be read, or not be written', [], ['Look at the rights of the item at the server.']],
  0xc0040007: [
    'unknown item',
    'the server knows no item of this name',
    ['A misspelt name, or one that is gone since the program was loaded anew.'],
    ['Browse to it again.'],
  ],
  0xc0040008: ['invalid item name', 'the name is not written as the server wants it', [], ['Browse to one, and compare.']],
  0xc0040009: ['invalid filter', 'the filter is not understood'],
  0xc004000a: ['unknown access path', 'the way to the item is not known'],
  0xc004000b: ['out of range', 'the value is outside of what is taken'],
  0xc004000c: ['duplicate name', 'a group of this name is there already', [], ['Take another name, or end the old client.']],
  0xc0040010: ['invalid configuration', 'the server cannot read its own configuration'],
  0xc0040011: ['not found', 'what was asked for is not there'],
  0xc0040203: ['invalid property', 'the item has no such property'],
}

const title = 'component-based connection (result code)'
const isCarrier = (code: number) => code >>> 16 === 0x8007
const codeText = (code: number) => `${hex(code, 8)} · ${code | 0}`

const rowOf = (code: number): Row | undefined => own[code] ?? (isCarrier(code) ? plain[code & 0xffff] : undefined)

export const components: CodeFamily = {
  title,
  find: ({ numbers, isAlone, text, words }) => {
    const found: Explanation[] = []
    for (const code of numbers) {
      const row = code > 0xffff ? rowOf(code) : undefined
      if (row) found.push(explained(title, codeText(code), row))
      const small = code <= 0xffff && (isAlone || /win32|windows|system error|error code|rpc/i.test(text)) ? plain[code] : undefined
      if (small) found.push(explained(title, `${code} · ${hex(0x80070000 + code, 8)}`, small))
    }
    if (words.has('RPC_S_SERVER_UNAVAILABLE')) found.push(explained(title, '1722 · 0x800706BA', plain[1722]!))
    return found
  },
}
