import { TopicRules } from '#core/outlets/topicRules'
import type { BrokerUser, MqttBrokerSettings } from '#shared/outlets/mqttBroker'
import type { PasswordGate } from '../doors/passwordGate'

/** Who came in, and what that one may do. */
export interface BrokerGuest {
  name: string
  rules: TopicRules
  /** Another text: another guest, though the name may be the same. */
  mark: string
}

type GuestSettings = Pick<MqttBrokerSettings, 'anonymous' | 'users'>

/** Clients as guests: by name and password, or nobody in particular; each with rights by topic. */
export class BrokerGuests {
  private users = new Map<string, BrokerUser>()
  private byName = new Map<string, BrokerGuest>()
  private anonymous!: BrokerGuest

  constructor(
    settings: GuestSettings,
    private gate: PasswordGate,
  ) {
    this.take(settings)
  }

  take({ anonymous, users }: GuestSettings) {
    this.anonymous = guestOf('anonymous', anonymous, '')
    this.users = new Map(users.map((user) => [user.name, user]))
    this.byName = new Map(users.map(({ name, rules, password }) => [name, guestOf(name, rules, JSON.stringify(password))]))
  }

  /** Null: the name is not known here, or the password is another one. */
  async withPassword(name: string, password: string, from: string): Promise<BrokerGuest | null> {
    const guest = this.byName.get(name)
    const isRight = await this.gate.opens(this.users.get(name)?.password ?? null, name, password, from)
    // its password may have become another one meanwhile
    return isRight && guest && this.isStill(guest) ? guest : null
  }

  /** The one of that name as the settings are now; null: there is none any more. */
  now(name: string): BrokerGuest | null {
    return this.byName.get(name) ?? (name === this.anonymous.name ? this.anonymous : null)
  }

  get withoutName() {
    return this.anonymous
  }

  /** Whether it is a guest by the settings of now, with the same rights. */
  isStill({ name, mark }: BrokerGuest): boolean {
    return (this.byName.get(name) ?? this.anonymous).mark === mark
  }
}

const guestOf = (name: string, rules: BrokerUser['rules'], key: string): BrokerGuest => ({
  name,
  rules: new TopicRules(rules),
  mark: JSON.stringify([name, rules, key]),
})
