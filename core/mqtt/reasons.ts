/** What a broker says by its codes: the name in the standard, and what it means in words. */
export interface Reason {
  name: string
  words: string
}

/** Return codes of CONNACK (MQTT 3.1.1, 3.2.2.3). */
const returnCodes: Record<number, Reason> = {
  1: { name: 'Unacceptable protocol version', words: 'it does not speak this version of MQTT' },
  2: { name: 'Identifier rejected', words: 'it does not take this client id' },
  3: { name: 'Server unavailable', words: 'it takes nobody at the moment' },
  4: { name: 'Bad user name or password', words: 'name or password is wrong' },
  5: { name: 'Not authorized', words: 'whoever signs in like this may not connect' },
}

/** Reason codes that mean a failure (MQTT 5.0, 2.4). */
const reasonCodes: Record<number, Reason> = {
  0x80: { name: 'Unspecified error', words: 'it gives no reason' },
  0x81: { name: 'Malformed Packet', words: 'what we sent was not readable to it' },
  0x82: { name: 'Protocol Error', words: 'what we sent was not allowed at that moment' },
  0x83: { name: 'Implementation specific error', words: 'it does not offer what was asked for' },
  0x84: { name: 'Unsupported Protocol Version', words: 'it does not speak this version of MQTT' },
  0x85: { name: 'Client Identifier not valid', words: 'it does not take this client id' },
  0x86: { name: 'Bad User Name or Password', words: 'name or password is wrong' },
  0x87: { name: 'Not authorized', words: 'whoever signs in like this may not do that' },
  0x88: { name: 'Server unavailable', words: 'it takes nobody at the moment' },
  0x89: { name: 'Server busy', words: 'it has too much to do' },
  0x8a: { name: 'Banned', words: 'somebody shut this client out' },
  0x8b: { name: 'Server shutting down', words: 'it is being shut down' },
  0x8c: { name: 'Bad authentication method', words: 'it knows no such way to sign in' },
  0x8d: { name: 'Keep Alive timeout', words: 'it heard nothing from us for too long' },
  0x8e: { name: 'Session taken over', words: 'another client came with our client id' },
  0x8f: { name: 'Topic Filter invalid', words: 'it does not take this filter' },
  0x90: { name: 'Topic Name invalid', words: 'it does not take this topic' },
  0x91: { name: 'Packet Identifier in use', words: 'it confused two of our messages' },
  0x93: { name: 'Receive Maximum exceeded', words: 'too many of our messages were under way' },
  0x94: { name: 'Topic Alias invalid', words: 'it does not know a short form of a topic' },
  0x95: { name: 'Packet too large', words: 'the message is larger than it takes' },
  0x96: { name: 'Message rate too high', words: 'messages come faster than it takes them' },
  0x97: { name: 'Quota exceeded', words: 'a limit that it was given is reached' },
  0x98: { name: 'Administrative action', words: 'somebody there ended it' },
  0x99: { name: 'Payload format invalid', words: 'the payload is not what it was said to be' },
  0x9a: { name: 'Retain not supported', words: 'it keeps no messages' },
  0x9b: { name: 'QoS not supported', words: 'it does not offer this quality of service' },
  0x9c: { name: 'Use another server', words: 'it sends us to another broker for now' },
  0x9d: { name: 'Server moved', words: 'it sends us to another broker for good' },
  0x9e: { name: 'Shared Subscriptions not supported', words: 'it shares no subscriptions' },
  0x9f: { name: 'Connection rate exceeded', words: 'connections come faster than it takes them' },
  0xa0: { name: 'Maximum connect time', words: 'the time for which it lets anybody stay is over' },
  0xa1: { name: 'Subscription Identifiers not supported', words: 'it numbers no subscriptions' },
  0xa2: { name: 'Wildcard Subscriptions not supported', words: 'it takes no “+” and no “#”' },
}

/** A broker of 3.1.1 answers by its own codes, whatever it was asked in; those of 5.0 begin behind them. */
export const reasonOf = (code: number): Reason => {
  const known = code < 0x80 ? returnCodes[code] : reasonCodes[code]
  return known ?? { name: 'unknown', words: 'the standard has no such code' }
}

export const hexCode = (code: number) => `0x${code.toString(16).toUpperCase().padStart(2, '0')}`

/** The same client id somewhere else. */
export const takenOver = 0x8e
