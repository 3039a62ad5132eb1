<script setup lang="ts">
import type { MapEntry } from '#core/modbus/map/entry'
import type { Placeable } from '#core/modbus/map/propose'
import { notGoodText, tableRows } from '#shared/outlets/modbusServerCard'
import type { ModbusServerSettings } from '#shared/outlets/modbusServer'

/** Settings of a Modbus server: its doors left; what lies where, and who may read and write it, right. */
const settings = defineModel<ModbusServerSettings>({ required: true })
const props = defineProps<{
  messageFor(path: string): string
  problems: ReadonlyMap<string, string>
  triedToSave: boolean
}>()
const emit = defineEmits<{ left: [path: string] }>()

const route = useRoute()
const folders = useFolders()
const { fetchAll } = usePlaceables()
const tags = shallowRef<Placeable[] | null>(null)
const isEmpty = computed(() => settings.value.map.length === 0)
onMounted(async () => {
  if (isEmpty.value) tags.value = await fetchAll().catch(() => [])
})
/** The lines of a map are many, and are changed on a page of their own: here none of them has to be watched. */
const take = (entries: MapEntry[]) => (settings.value.map = markRaw(entries) as MapEntry[])
watch(
  () => settings.value.map,
  (map) => isReactive(map) && take(toRaw(map)),
  { immediate: true },
)
const wrong = (part: string) => props.triedToSave && [...props.problems.keys()].some((path) => path.startsWith(`settings.${part}`))
const mapProblem = computed(() => [...props.problems].find(([path]) => path.startsWith('settings.map'))?.[1] ?? '')
const addMachine = () => settings.value.machines.push({ name: '', from: '', rules: [{ folder: '', may: 'write' }] })
const addLine = () =>
  settings.value.lines.push({
    ...{ on: true, device: '/dev/ttyUSB0', baud: 19_200, dataBits: 8, parity: 'even', stopBits: 1, framing: 'rtu' },
  })
const gaps = [
  { value: 'refuse' as const, title: 'exception 2', subtitle: 'so that nobody takes them for values' },
  { value: 'zero' as const, title: 'zeros', subtitle: 'for clients that read in blocks across them' },
]
const notGood = (['marker', 'refuse', 'last'] as const).map((value) => ({
  value,
  title: { marker: 'a number that means none', refuse: 'exception 4', last: 'what was good last' }[value],
  subtitle: notGoodText[value],
}))
const limits = [
  { name: 'connections', label: 'Connections of a door' },
  { name: 'perAddress', label: 'From one address' },
  { name: 'waiting', label: 'Requests of one that wait' },
] as const
const limitText = computed(() => {
  const { connections, perAddress } = settings.value.limits
  return `${connections} connections a door, ${perAddress} from one address`
})
</script>

<template>
  <OutletForm v-model="settings.doors">
    <template #head><slot name="head" /></template>
    <template #door="{ at, drop }">
      <ModbusDoorFields
        v-model="settings.doors[at]!"
        :number="at + 1"
        :only="settings.doors.length === 1"
        :message-for="messageFor"
        @left="emit('left', $event)"
        @drop="drop"
      />
    </template>
    <h2 class="sheet-title">Register map <span class="quiet light">which tag lies where</span></h2>
    <MapProposal v-if="isEmpty" :tags="tags" :there="[]" :unit="settings.unit" @take="take" />
    <template v-else>
      <dl class="places">
        <template v-for="{ label, text } in tableRows(settings)" :key="label">
          <dt>{{ label }}</dt>
          <dd class="mono">{{ text }}</dd>
        </template>
      </dl>
      <v-btn v-if="route.params.id" class="more" :to="`/outlets/${String(route.params.id)}/map`">Change the map</v-btn>
      <v-btn v-else class="more" @click="settings.map = []">Propose other places</v-btn>
    </template>
    <p v-if="mapProblem" class="is-broken">{{ mapProblem }}</p>
    <h2 class="sheet-title next">What is told</h2>
    <div class="told">
      <NumberField v-model="settings.unit" label="Unit" :message="messageFor('settings.unit')" @left="emit('left', 'settings.unit')" />
      <ChoiceField v-model="settings.gaps" label="Between mapped addresses" :choices="gaps" />
      <ChoiceField v-model="settings.notGood" label="Where a value is not good" :choices="notGood" />
    </div>
    <h2 class="sheet-title next">Serial lines <span class="quiet light">where it answers a master, too</span></h2>
    <LineFields
      v-for="(_, i) in settings.lines"
      :key="i"
      v-model="settings.lines[i]!"
      :number="i + 1"
      :message-for="messageFor"
      @left="emit('left', $event)"
      @drop="settings.lines.splice(i, 1)"
    />
    <p v-if="!settings.lines.length" class="quiet">None.</p>
    <v-btn class="more" @click="addLine">Add a line</v-btn>
    <h2 class="sheet-title next">Machines that are not listed may</h2>
    <RulesField
      v-model="settings.anyone"
      what="Rights of machines that are not listed"
      path="settings.anyone"
      :folders="folders"
      :message-for="messageFor"
    />
    <h2 class="sheet-title next">Machines by their addresses</h2>
    <MachineFields
      v-for="(_, i) in settings.machines"
      :key="i"
      v-model="settings.machines[i]!"
      :number="i + 1"
      :folders="folders"
      :message-for="messageFor"
      @left="emit('left', $event)"
      @drop="settings.machines.splice(i, 1)"
    />
    <p v-if="!settings.machines.length" class="quiet">
      None. The protocol has no names: a machine is known by where it comes from, so keep writing to few addresses.
    </p>
    <v-btn class="more" @click="addMachine">Add machines</v-btn>
    <template #folds>
      <SettingsFold title="Limits" :summary="limitText" :has-problem="wrong('limits')">
        <NumberField
          v-for="limit in limits"
          :key="limit.name"
          v-model="settings.limits[limit.name]"
          :label="limit.label"
          :message="messageFor(`settings.limits.${limit.name}`)"
          @left="emit('left', `settings.limits.${limit.name}`)"
        />
      </SettingsFold>
    </template>
    <template #foot><slot name="foot" /></template>
  </OutletForm>
</template>

<style scoped>
.light {
  font-weight: 400;
}
.places {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 3px 12px;
  margin: 8px 0 0;
}
.places dt {
  color: var(--quiet);
}
.places dd {
  margin: 0;
}
.told {
  display: grid;
  grid-template-columns: 80px minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
}
</style>
