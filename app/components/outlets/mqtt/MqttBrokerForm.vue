<script setup lang="ts">
import { listTags } from '#shared/api/tags'
import type { MqttBrokerSettings } from '#shared/outlets/mqttBroker'

/** Settings of an MQTT broker: its doors and names left; what it publishes right. */
const settings = defineModel<MqttBrokerSettings>({ required: true })
const props = defineProps<{
  messageFor(path: string): string
  problems: ReadonlyMap<string, string>
  triedToSave: boolean
}>()
defineEmits<{ left: [path: string] }>()

const folders = useFolders()
/** A path of the site, so that a pattern shows what it makes of it. */
const example = ref('berth/1/power')
onMounted(async () => {
  const tags = await callApi(listTags, { query: { limit: 1 } }).catch(() => null)
  example.value = tags?.items[0]?.path ?? example.value
})
const wrong = (part: string) => props.triedToSave && [...props.problems.keys()].some((path) => path.startsWith(`settings.${part}`))
const addGuest = () => settings.value.users.push({ name: '', password: { plain: '' }, rules: [{ filter: '#', may: 'listen' }] })
const addPublication = () =>
  settings.value.publishes.push({ folder: '', topic: '{path}', form: 'json', every: null, qos: 0, retain: true, set: '' })
const limits = [
  { name: 'connections', label: 'Connections of a door', unit: '' },
  { name: 'perAddress', label: 'From one address', unit: '' },
  { name: 'payload', label: 'Largest message', unit: 'kB' },
  { name: 'kept', label: 'Kept for a client that is away', unit: 'messages' },
  { name: 'retained', label: 'Topics that keep a message of clients', unit: '' },
] as const
const limitText = computed(() => {
  const { connections, perAddress, payload, kept } = settings.value.limits
  return `${connections} connections a door, ${perAddress} from one address, messages of ${payload} kB, ${kept} kept for a client that is away`
})
</script>

<template>
  <OutletForm v-model="settings.doors">
    <template #head><slot name="head" /></template>
    <template #door="{ at, drop }">
      <BrokerDoorFields
        v-model="settings.doors[at]!"
        :number="at + 1"
        :only="settings.doors.length === 1"
        :message-for="messageFor"
        @left="$emit('left', $event)"
        @drop="drop"
      />
    </template>
    <h2 class="sheet-title">Published <span class="quiet light">tags as topics</span></h2>
    <PublicationFields
      v-for="(_, i) in settings.publishes"
      :key="i"
      v-model="settings.publishes[i]!"
      :number="i + 1"
      :folders="folders"
      :example="example"
      :message-for="messageFor"
      @left="$emit('left', $event)"
      @drop="settings.publishes.splice(i, 1)"
    />
    <p v-if="!settings.publishes.length" class="quiet">No tag is published: it is a broker for others only.</p>
    <v-btn class="more" @click="addPublication">Add a folder</v-btn>
    <h2 class="sheet-title next">Clients without a name may</h2>
    <TopicRulesField
      v-model="settings.anonymous"
      what="Rights without a name"
      path="settings.anonymous"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <h2 class="sheet-title next">Clients by name and password</h2>
    <BrokerGuestFields
      v-for="(_, i) in settings.users"
      :key="i"
      v-model="settings.users[i]!"
      :number="i + 1"
      :message-for="messageFor"
      @left="$emit('left', $event)"
      @drop="settings.users.splice(i, 1)"
    />
    <p v-if="!settings.users.length" class="quiet">None. A door that takes names lets in whoever is listed here.</p>
    <v-btn class="more" @click="addGuest">Add a name</v-btn>
    <template #folds>
      <SettingsFold title="Limits" :summary="limitText" :has-problem="wrong('limits')">
        <NumberField
          v-for="limit in limits"
          :key="limit.name"
          v-model="settings.limits[limit.name]"
          :label="limit.label"
          :unit="limit.unit"
          :message="messageFor(`settings.limits.${limit.name}`)"
          @left="$emit('left', `settings.limits.${limit.name}`)"
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
</style>
