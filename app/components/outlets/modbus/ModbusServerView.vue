<script setup lang="ts">
import { framingText } from '#core/modbus/framings'
import { counted } from '#core/text/counted'
import { folderRulesText } from '#shared/outlets/httpServerCard'
import { notGoodText, tableRows } from '#shared/outlets/modbusServerCard'
import type { ModbusServerDetails } from '#shared/outlets/modbusServerStatus'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { OutletStatus } from '#shared/status'

/** How a Modbus server is: its doors, who asks, what lies where, and what it had to refuse. */
const props = defineProps<{ outlet: Outlet; status: OutletStatus | null }>()
const live = useLive()
const settings = computed(() => settingsAs('modbus-server', props.outlet)!)
const details = computed<ModbusServerDetails | null>(() => (props.status?.details?.kind === 'modbus-server' ? props.status.details : null))
const securityOf = (i: number) => {
  const framing = settings.value.doors[i]?.framing
  return framing && framing !== 'tcp' ? `${framingText[framing]}, not encrypted` : 'not encrypted'
}
const now = computed(() => live.status?.now ?? 0)
const places = computed(() => tableRows(settings.value))
</script>

<template>
  <OutletColumns>
    <DoorTable :doors="details?.doors ?? []" :security="securityOf" :identity="() => 'by address'" />
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
    <template #side>
      <section class="sheet part">
        <h2 class="sheet-title">
          Register map <span class="quiet light">unit {{ settings.unit }}</span>
        </h2>
        <table v-if="places.length" class="rows">
          <tbody>
            <tr v-for="{ label, text } in places" :key="label">
              <td>{{ label }}</td>
              <td class="mono">{{ text }}</td>
            </tr>
          </tbody>
        </table>
        <p v-else class="quiet">Nothing is mapped yet, so every request is refused.</p>
        <p v-if="details && details.notGood > 0" class="is-late">
          {{ counted(details.notGood, 'entry', 'entries') }} without a good value:
          <span class="quiet">{{ notGoodText[settings.notGood] }}</span>
        </p>
        <p v-for="one in details?.troubled.slice(0, 5)" :key="one.path + one.at" class="small">
          <span class="mono">{{ one.at }}</span> {{ one.path }} <span class="is-broken">{{ one.problem }}</span>
        </p>
        <p v-if="details && details.troubledCount > 5" class="quiet small">
          and {{ counted(details.troubledCount - 5, 'entry', 'entries') }} more
        </p>
        <p><v-btn :to="`/outlets/${outlet.id}/map`">Open the map</v-btn></p>
      </section>
      <section v-if="details?.lines.length" class="sheet part">
        <h2 class="sheet-title">Serial lines</h2>
        <p v-for="line in details.lines" :key="line.device">
          <PipeGlyph :flow="line.flow" :width="38" /> <span class="mono">{{ line.device }}</span>
          <span v-if="line.fault" class="below is-broken">{{ line.fault.what }} {{ line.fault.next }}</span>
        </p>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Asked</h2>
        <p v-if="details">{{ counted(details.requestsPerSecond, 'request') }}/s</p>
        <p v-else class="quiet">Not open.</p>
        <p><span class="quiet">Between mapped addresses:</span> {{ settings.gaps === 'zero' ? 'zeros' : 'exception 2' }}</p>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Who may do what</h2>
        <p v-for="machine in settings.machines" :key="machine.name">
          <strong>{{ machine.name }}</strong> <span class="quiet mono">{{ machine.from }}</span>
          <span class="below quiet">{{ folderRulesText(machine.rules) }}</span>
        </p>
        <p>
          <strong>Not listed</strong> <span class="below quiet">{{ folderRulesText(settings.anyone) }}</span>
        </p>
      </section>
    </template>
  </OutletColumns>
</template>

<style scoped>
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
</style>
