<script setup lang="ts">
import { counted } from '#core/text/counted'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import { doorIdentityText } from '#shared/outlets/cardParts'
import { publicationText, topicRulesText } from '#shared/outlets/mqttBrokerCard'
import type { MqttBrokerDetails } from '#shared/outlets/mqttBrokerStatus'
import type { OutletStatus } from '#shared/status'

/** How an MQTT broker is: its doors, what it publishes, whose session it keeps, and what it had to refuse. */
const props = defineProps<{ outlet: Outlet; status: OutletStatus | null }>()
const live = useLive()
const settings = computed(() => settingsAs('mqtt-broker', props.outlet)!)
const details = computed<MqttBrokerDetails | null>(() => (props.status?.details?.kind === 'mqtt-broker' ? props.status.details : null))
const doorAt = (i: number) => settings.value.doors[i]
const securityOf = (i: number) => (doorAt(i)?.tls ? 'TLS' : 'not encrypted')
const identityOf = (i: number) => (doorAt(i) ? doorIdentityText(doorAt(i)!) : '')
const now = computed(() => live.status?.now ?? 0)
</script>

<template>
  <OutletColumns>
    <DoorTable :doors="details?.doors ?? []" :security="securityOf" :identity="identityOf" />
    <FaultNote v-if="status?.fault" :fault="status.fault" />
    <slot />
    <RefusedActs :acts="details?.refused ?? []" :now="now" />
    <DoorCheck
      v-if="details?.doors.length"
      :outlet-id="outlet.id"
      :doors="settings.doors"
      :status="details.doors"
      :interfaces="live.status?.interfaces ?? []"
      :now="now"
    />
    <UnclaimedTopics :id="outlet.id" of="outlet" />
    <template #side>
      <section class="sheet part">
        <h2 class="sheet-title">
          Published <span v-if="details" class="quiet light">{{ counted(details.published, 'topic') }}</span>
        </h2>
        <p v-for="(one, i) in settings.publishes" :key="i">
          <span class="chip mono inline">{{ one.folder ? `${one.folder}/…` : 'the whole site' }}</span>
          <span class="quiet"> {{ publicationText(one) }}</span>
          <span v-if="one.set" class="below quiet"
            >set by <span class="mono">{{ one.set }}</span></span
          >
        </p>
        <p v-if="!settings.publishes.length" class="quiet">No tag.</p>
        <template v-if="details?.notPublished.length">
          <p class="is-late">{{ counted(details.notPublished.length, 'tag') }} without a topic:</p>
          <p v-for="one in details.notPublished.slice(0, 5)" :key="one.path" class="small">
            <span class="mono">{{ one.path }}</span> <span class="quiet">{{ one.problem }}</span>
          </p>
        </template>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">As a broker</h2>
        <template v-if="details">
          <p>
            {{ details.receivedPerSecond }} messages/s in, {{ details.sentPerSecond }} out
            <span v-if="details.dropped" class="is-late below">{{ counted(details.dropped, 'message') }} not taken by slow clients</span>
          </p>
          <p>{{ counted(details.retained, 'topic') }} of clients {{ details.retained === 1 ? 'keeps' : 'keep' }} a message</p>
          <p v-if="details.sessionCount === 0" class="quiet">No client has its session kept.</p>
          <table v-else class="rows">
            <thead>
              <tr>
                <th>Session kept for</th>
                <th class="number">Waiting</th>
                <th class="number">Dropped</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in details.sessions" :key="one.client">
                <td class="wrap">
                  <span class="mono">{{ one.client }}</span><span class="below quiet"
                    >{{ one.connected ? 'here' : 'away' }}, {{ counted(one.topics, 'filter') }}</span
                  >
                </td>
                <td class="number">{{ one.waiting }}</td>
                <td class="number" :class="{ 'is-late': one.dropped > 0 }">{{ one.dropped }}</td>
              </tr>
            </tbody>
          </table>
        </template>
        <p v-else class="quiet">Not open.</p>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Who may do what</h2>
        <p v-if="settings.doors.some((door) => door.anonymous)">
          <strong>Without a name</strong> <span class="quiet mono">{{ topicRulesText(settings.anonymous) }}</span>
        </p>
        <p v-for="user in settings.users" :key="user.name">
          <strong>{{ user.name }}</strong> <span class="quiet mono">{{ topicRulesText(user.rules) }}</span>
        </p>
      </section>
    </template>
  </OutletColumns>
</template>

<style scoped>
.inline {
  display: inline-block;
  margin-right: 6px;
  vertical-align: middle;
  margin-bottom: 0;
}
.below {
  display: block;
}
strong {
  font-weight: 600;
}
.small {
  font-size: 12px;
}
.light {
  font-weight: 400;
}
.tight {
  white-space: nowrap;
}
.wrap {
  overflow-wrap: anywhere;
}
</style>
