import { entry, type Peer } from './entry'

/** MQTT (5.0 and 3.1.1). */
export const mqttFaults = {
  'mqtt.refused': entry<Peer & { code: string; name: string; words: string; about: 'identity' | 'other' }>(
    'device',
    (e) => `The broker at ${e.host}:${e.port} refused the connection with ${e.code}, ${e.name}: ${e.words}.`,
    (e) =>
      ({
        identity: 'Ask whoever runs the broker which name, password and client id it expects from us.',
        other: 'Look at what the broker says in its own log; its limits are set there.',
      })[e.about],
  ),
  'mqtt.version': entry<Peer & { version: string; code: string; name: string }>(
    'device',
    (e) => `The broker at ${e.host}:${e.port} does not speak MQTT ${e.version} (${e.code}, ${e.name}).`,
    () => 'Choose the other version of MQTT, under “Session”.',
  ),
  'mqtt.silent': entry<Peer & { ms: number }>(
    'device',
    (e) => `${e.host}:${e.port} is open, and did not answer our CONNECT within ${e.ms} ms.`,
    (e) => `Another service may listen on port ${e.port}, or it expects TLS there. The usual ports are 1883, and 8883 with TLS.`,
  ),
  'mqtt.not-mqtt': entry<Peer & { problem: string }>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} is not MQTT: ${e.problem}.`,
    (e) => `Port ${e.port} belongs to another service there. The usual ports of a broker are 1883, and 8883 with TLS.`,
  ),
  'mqtt.closed': entry<Peer>(
    'device',
    (e) => `The broker at ${e.host}:${e.port} closed the connection.`,
    () => 'It is tried again by itself. If it goes on, look at the broker’s log, and for another client with our client id.',
  ),
  'mqtt.taken-over': entry<Peer & { clientId: string }>(
    'device',
    (e) => `Another client came to ${e.host}:${e.port} with our client id “${e.clientId}”, and the broker ended our connection.`,
    () => 'Each throws the other out, again and again. Give this link, or the other client, a client id of its own.',
  ),
  'mqtt.ended': entry<Peer & { code: string; name: string; words: string }>(
    'device',
    (e) => `The broker at ${e.host}:${e.port} ended the connection with ${e.code}, ${e.name}: ${e.words}.`,
    () => 'It is tried again by itself. If it goes on, look at the broker’s log.',
  ),
  'mqtt.tls': entry<Peer & { problem: string }>(
    'device',
    (e) => `${e.host}:${e.port} and we could not agree on TLS: ${e.problem}`,
    () =>
      'Where it listens without TLS, or on another port with it, choose that. Where its certificate is not believed, give its authority here; where it asks for ours, give that.',
  ),
  'mqtt.websocket': entry<Peer & { path: string; problem: string }>(
    'device',
    (e) => `What answers at ${e.host}:${e.port}${e.path} opens no websocket for MQTT: ${e.problem}`,
    () => 'Ask whoever runs the broker for port and path of its websocket door; usual paths are /mqtt and /.',
  ),
  'mqtt.no-filter': entry<{ filter: string; problem: string }>(
    'entry',
    (e) => `“${e.filter}” is no filter: ${e.problem}`,
    () => 'Type a filter as in berth/+/power or berth/#.',
  ),
  'mqtt.filter-refused': entry<{ filter: string; code: string; name: string; words: string }>(
    'device',
    (e) => `The broker does not let us listen to ${e.filter}: ${e.code}, ${e.name}; ${e.words}.`,
    () => 'Its rights are set on the broker: ask for leave to listen to this topic, or correct the topic.',
  ),
  'mqtt.not-sent': entry<{ topic: string; problem: string }>(
    'device',
    (e) => `The broker did not take the message to ${e.topic}: ${e.problem}.`,
    () => 'Its rights are set on the broker: ask for leave to send to this topic, or correct the topic.',
  ),
  'mqtt.swallowed': entry<{ topic: string; ms: number }>(
    'device',
    (e) => `The broker took our wish to listen to ${e.topic} and our message to it, and did not give it back within ${e.ms} ms.`,
    () =>
      'Its rights may let us send or listen less than it says, or messages pass slowly there. Ask its owner which topics we may send to and listen to.',
  ),
  'mqtt.nothing-yet': entry<{ topic: string; ms: number }>(
    'device',
    (e) => `Nothing came on ${e.topic} within ${e.ms} ms.`,
    () => 'We listen to it; messages come when its sender sends one. Look whether the topic is written as the sender has it.',
  ),
  'mqtt.not-connected': entry<Peer>(
    'network',
    (e) => `The link to the broker at ${e.host}:${e.port} is not connected.`,
    () => 'Save the link, and look at its state; a topic is read over its connection.',
  ),
  'mqtt.unfit': entry<{ topic: string; problem: string }>(
    'device',
    (e) => `What came on ${e.topic} is no value of this tag: ${e.problem}.`,
    () => 'Look at the payload below. If it is as it should be, correct the path or the type of the tag; else it is the sender’s.',
  ),
} as const
