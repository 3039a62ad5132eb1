<script setup lang="ts">
import { counted } from '#core/text/counted'
import { ageText, duration, wholeSeconds } from '#core/text/duration'
import { areasText, everyText } from '#shared/outlets/cloudPlatformCard'
import type { CloudPlatformDetails } from '#shared/outlets/cloudPlatformStatus'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { OutletStatus } from '#shared/status'

/** How a platform takes what it is sent: what is under way and what waits, its model beside ours, and what it refused. */
const props = defineProps<{ outlet: Outlet; status: OutletStatus | null }>()
const live = useLive()
const settings = computed(() => settingsAs('cloud-platform', props.outlet)!)
const details = computed<CloudPlatformDetails | null>(() =>
  props.status?.details?.kind === 'cloud-platform' ? props.status.details : null,
)
const now = computed(() => live.status?.now ?? 0)
const whole = (count: number) => count.toLocaleString('en-GB')
const size = (bytes: number) => (bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`)
const clockText = (ahead: number | null) =>
  ahead === null ? 'not told' : ahead === 0 ? 'as ours' : `${duration(Math.abs(ahead))} ${ahead > 0 ? 'ahead of' : 'behind'} ours`
const isClockOff = computed(() => Math.abs(details.value?.delivery.clockAhead ?? 0) > 60_000)
const restText = computed(() => {
  const until = details.value?.delivery.pausedUntil ?? null
  return until === null || until < now.value ? '' : `it wants to be left alone for ${wholeSeconds(until - now.value + 1000)}`
})
</script>

<template>
  <OutletColumns>
    <FaultNote v-if="status?.fault" :fault="status.fault" />
    <section class="sheet part">
      <h2 class="sheet-title">
        Values <span v-if="details" class="quiet light">{{ counted(status?.items ?? 0, 'stream') }}</span>
      </h2>
      <p v-if="!details" class="quiet">Not open.</p>
      <dl v-else class="facts">
        <div>
          <dt>Taken</dt>
          <dd>{{ whole(details.delivery.sent) }}</dd>
          <span class="quiet">{{ whole(details.delivery.sentPerSecond) }} a second</span>
        </div>
        <div :class="{ 'is-late': details.delivery.flow !== 'flowing' }">
          <dt>Waiting</dt>
          <dd>{{ whole(details.delivery.waiting) }}</dd>
          <span class="quiet">{{
            details.delivery.waiting ? `${size(details.delivery.waitingBytes)}, oldest ${wholeSeconds(details.delivery.behind)}` : 'nothing'
          }}</span>
        </div>
        <div :class="{ 'is-late': details.delivery.refused > 0 }">
          <dt>Refused</dt>
          <dd>{{ whole(details.delivery.refused) }}</dd>
          <span class="quiet">for good</span>
        </div>
        <div :class="{ 'is-broken': details.delivery.lost > 0 }">
          <dt>Dropped</dt>
          <dd>{{ whole(details.delivery.lost) }}</dd>
          <span class="quiet">no room was left</span>
        </div>
        <div>
          <dt>Last taken</dt>
          <dd class="words">{{ details.delivery.lastAt === null ? 'never' : ageText(now - details.delivery.lastAt) }}</dd>
          <span class="is-late">{{ restText }}</span>
        </div>
        <div :class="{ 'is-late': isClockOff }">
          <dt>Its clock</dt>
          <dd class="words">{{ clockText(details.delivery.clockAhead) }}</dd>
        </div>
      </dl>
    </section>
    <section v-if="details?.notTaken.length" class="sheet part">
      <h2 class="sheet-title">Refused for good <span class="quiet light">the last first</span></h2>
      <table class="rows">
        <thead>
          <tr>
            <th>Tag</th>
            <th class="number">Values</th>
            <th>Why</th>
            <th>Last</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in details.notTaken" :key="one.path">
            <td class="mono wrap">{{ one.path }}</td>
            <td class="number">{{ whole(one.count) }}</td>
            <td class="wrap">{{ one.why }}</td>
            <td class="quiet">{{ ageText(now - one.at) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <CloudModelPlan v-if="settings.model.on && details" :outlet-id="outlet.id" :model="details.model" />
    <CloudCheck :outlet-id="outlet.id" :is-open="details !== null" />
    <template #side>
      <section class="sheet part">
        <h2 class="sheet-title">What goes there</h2>
        <p v-if="settings.model.on">
          <strong>Equipment</strong> {{ areasText(settings.model.areas) }}
          <span class="below quiet">{{ everyText(settings.model.every) }}</span>
        </p>
        <p v-for="(one, i) in settings.streams" :key="i">
          <span class="chip mono">{{ one.folder ? `${one.folder}/…` : 'the whole site' }}</span>
          <span class="below quiet">{{ everyText(one.every) }}</span>
        </p>
        <p v-if="!settings.model.on && !settings.streams.length" class="quiet">Nothing. Choose equipment or folders in the settings.</p>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Platform</h2>
        <p class="mono wrap">{{ status?.addresses[0] ?? '' }}</p>
        <p>
          <span class="quiet">knows this site as</span> <span class="mono">{{ settings.site }}</span>
        </p>
        <p v-if="settings.model.on" class="quiet">
          {{
            {
              asked: 'Its model is changed only when somebody says so.',
              'after the first': 'Once the first plan was carried out, changes of the model follow by themselves.',
              'at once': 'Changes of the model follow by themselves.',
            }[settings.model.follow]
          }}
          What is removed here stays there until somebody says otherwise.
        </p>
      </section>
    </template>
  </OutletColumns>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(104px, 1fr));
  gap: 10px 18px;
  margin: 8px 0 0;
}
dt {
  font-size: 12px;
  color: var(--quiet);
}
dd {
  margin: 0;
  font-size: 20px;
  font-variant-numeric: tabular-nums;
}
dd.words {
  font-size: 15px;
  line-height: 28px;
}
.facts span {
  font-size: 12px;
}
.below {
  display: block;
}
.light {
  font-weight: 400;
}
.wrap {
  overflow-wrap: anywhere;
}
strong {
  font-weight: 600;
}
</style>
