<script setup lang="ts">
import { counted } from '#core/text/counted'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'

/** Settings of an OPC UA server: its doors left; who may come in, and what each sees, right. */
const settings = defineModel<OpcuaServerSettings>({ required: true })
const props = defineProps<{
  messageFor(path: string): string
  problems: ReadonlyMap<string, string>
  triedToSave: boolean
}>()
defineEmits<{ left: [path: string] }>()

const folders = useFolders()
const wrong = (part: string) => props.triedToSave && [...props.problems.keys()].some((path) => path.startsWith(`settings.${part}`))
const addGuest = () =>
  settings.value.users.push({ name: '', key: { kind: 'password', password: { plain: '' } }, rules: [{ folder: '', may: 'read' }] })
const addDialled = () =>
  settings.value.dialled.push({
    ...{ on: true, host: '', port: 4843, policies: ['Basic256Sha256'], modes: ['SignAndEncrypt'] },
    ...{ anonymous: true, names: false, certificates: false },
  })
const limits = [
  { name: 'connections', label: 'Connections of a door' },
  { name: 'perAddress', label: 'From one address' },
  { name: 'sessions', label: 'Sessions' },
  { name: 'items', label: 'Items of all clients' },
  { name: 'itemsPerGuest', label: 'Items of one guest' },
  { name: 'itemsPerSession', label: 'Items of one session' },
  { name: 'queue', label: 'Values that wait, an item' },
] as const
const summary = computed(() => {
  const { shortNames, onRequest, health, limits: most } = settings.value
  return {
    names: shortNames.on ? `a flat view of names with at most ${shortNames.most} characters` : 'not shown',
    onRequest: onRequest.on ? `at most ${onRequest.most}, ${onRequest.mayWrite ? 'read and written' : 'read only'}` : 'off',
    limits: `${most.connections} connections a door, ${most.perAddress} from one address, ${most.sessions} sessions, ${counted(most.items, 'item')}`,
    health: health ? 'state, counts and last error of each link' : 'not shown',
  }
})
</script>

<template>
  <OutletForm v-model="settings.doors">
    <template #head><slot name="head" /><PairedNote v-if="settings.paired" :paired="settings.paired" /></template>
    <template #door="{ at, drop }">
      <DoorFields
        v-model="settings.doors[at]!"
        :number="at + 1"
        :only="settings.doors.length === 1"
        :message-for="messageFor"
        @left="$emit('left', $event)"
        @drop="drop"
      />
    </template>
    <template #besideDoors>
      <h2 class="sheet-title next">Dialled clients <span class="quiet light">where nothing gets in to us: we open the connection</span></h2>
      <DialledFields
        v-for="(_, i) in settings.dialled"
        :key="i"
        v-model="settings.dialled[i]!"
        :number="i + 1"
        :message-for="messageFor"
        @left="$emit('left', $event)"
        @drop="settings.dialled.splice(i, 1)"
      />
      <v-btn class="more" @click="addDialled">Dial a client</v-btn>
    </template>
    <h2 class="sheet-title">What is shown <span class="quiet light">of the site, to anybody</span></h2>
    <RulesField v-model="settings.shows" what="What is shown" path="settings.shows" :folders="folders" :message-for="messageFor" />
    <h2 class="sheet-title next">Anonymous clients</h2>
    <RulesField
      v-model="settings.anonymous"
      what="Rights of anonymous clients"
      path="settings.anonymous"
      :folders="folders"
      :message-for="messageFor"
    />
    <h2 class="sheet-title next">Clients by name or certificate</h2>
    <GuestFields
      v-for="(_, i) in settings.users"
      :key="i"
      v-model="settings.users[i]!"
      :number="i + 1"
      :folders="folders"
      :message-for="messageFor"
      @left="$emit('left', $event)"
      @drop="settings.users.splice(i, 1)"
    />
    <p v-if="!settings.users.length" class="quiet">None. A door that takes names or certificates lets in whoever is listed here.</p>
    <v-btn class="more" @click="addGuest">Add a name</v-btn>
    <template #folds>
      <SettingsFold title="Short names" :summary="summary.names" :has-problem="wrong('shortNames')">
        <v-switch v-model="settings.shortNames.on" label="Show a flat view beside the deep one" class="all" />
        <NumberField
          v-model="settings.shortNames.most"
          label="Longest name"
          unit="characters"
          hint="as many as the consumer takes"
          :message="messageFor('settings.shortNames.most')"
          @left="$emit('left', 'settings.shortNames.most')"
        />
      </SettingsFold>
      <SettingsFold title="Points on request" :summary="summary.onRequest" :has-problem="wrong('onRequest')">
        <p class="quiet all">
          A client that may see the whole site can read what no tag covers, by
          <span class="mono">nsu=urn:keen-conduit:points;s=link|address|type</span>, with <span class="mono">|milliseconds</span> behind it
          for an interval of its own.
        </p>
        <v-switch v-model="settings.onRequest.on" label="Allow it" />
        <v-switch v-model="settings.onRequest.mayWrite" label="Let them be written" :disabled="!settings.onRequest.on" />
        <NumberField
          v-model="settings.onRequest.most"
          label="At most"
          unit="points"
          :message="messageFor('settings.onRequest.most')"
          @left="$emit('left', 'settings.onRequest.most')"
        />
      </SettingsFold>
      <SettingsFold title="Limits" :summary="summary.limits" :has-problem="wrong('limits')">
        <NumberField
          v-for="limit in limits"
          :key="limit.name"
          v-model="settings.limits[limit.name]"
          :label="limit.label"
          :message="messageFor(`settings.limits.${limit.name}`)"
          @left="$emit('left', `settings.limits.${limit.name}`)"
        />
        <p class="quiet all">
          What one client takes beyond its share is refused, told to it in the standard’s words, and noted in the journal.
        </p>
      </SettingsFold>
      <SettingsFold title="Health of the links" :summary="summary.health">
        <v-switch v-model="settings.health" label="Show it as nodes" class="all" />
      </SettingsFold>
    </template>
    <template #foot><slot name="foot" /></template>
  </OutletForm>
</template>

<style scoped>
.light {
  font-weight: 400;
}
.all {
  grid-column: 1 / -1;
}
</style>
