<script setup lang="ts">
import type { Endpoint } from '#core/endpoints/settings'
import { withoutNameText, type HttpServerSettings } from '#shared/outlets/httpServer'
import { blankEndpoint } from '~/outlets/endpoints'

/** Settings of an HTTP server: its doors and names left; its endpoints and who may do what right. */
const settings = defineModel<HttpServerSettings>({ required: true })
const props = defineProps<{
  messageFor(path: string): string
  problems: ReadonlyMap<string, string>
  triedToSave: boolean
}>()
defineEmits<{ left: [path: string] }>()
const lists = useLists()

const folders = useFolders()
const wrong = (part: string) => props.triedToSave && [...props.problems.keys()].some((path) => path.startsWith(`settings.${part}`))
const names = computed(() => [withoutNameText, ...settings.value.users.map(({ name }) => name).filter(Boolean)])
const addGuest = () => settings.value.users.push({ name: '', token: { plain: '' }, rules: [{ folder: '', may: 'read' }] })
const addEndpoint = () => {
  find.value = null
  settings.value.endpoints.push(blankEndpoint(lists.rowLinks))
}
/** Many of them have a room of their own, so that what stands below stays in reach. */
const isLong = computed(() => settings.value.endpoints.length > 8)
const find = ref<string | null>(null)
const isFound = ({ method, path, about }: Endpoint) => `${method} ${path} ${about}`.toLowerCase().includes((find.value ?? '').toLowerCase())
const origins = computed({
  get: () => settings.value.origins.join(', '),
  set: (text) => (settings.value.origins = text.split(/[,\s]+/).filter(Boolean)),
})
const originProblem = computed(() => settings.value.origins.map((_, i) => props.messageFor(`settings.origins.${i}`)).find(Boolean) ?? '')
const limits = [
  { name: 'connections', label: 'Connections of a door', unit: '' },
  { name: 'perAddress', label: 'From one address', unit: '' },
  { name: 'atOnce', label: 'Requests at once', unit: '' },
  { name: 'perMinute', label: 'Requests of a program', unit: 'a minute' },
  { name: 'body', label: 'Largest body', unit: 'kB' },
  { name: 'streams', label: 'Who follow changes', unit: '' },
] as const
const limitText = computed(() => {
  const { connections, perMinute, body, streams } = settings.value.limits
  return `${connections} connections a door, ${perMinute.toLocaleString('en-GB')} requests a minute of a program, bodies of ${body} kB, ${streams} who follow changes`
})
</script>

<template>
  <OutletForm v-model="settings.doors">
    <template #head><slot name="head" /></template>
    <template #door="{ at, drop }">
      <HttpDoorFields
        v-model="settings.doors[at]!"
        :number="at + 1"
        :only="settings.doors.length === 1"
        :message-for="messageFor"
        @left="$emit('left', $event)"
        @drop="drop"
      />
    </template>
    <h2 class="sheet-title">
      Endpoints of your own <span class="quiet light">beside /tags and /changes, which every program finds here</span>
    </h2>
    <ListFilter v-if="isLong" v-model="find" label="Filter endpoints" class="find" />
    <div :class="{ room: isLong }">
      <EndpointFields
        v-for="(endpoint, i) in settings.endpoints"
        v-show="isFound(endpoint) || wrong(`endpoints.${i}.`)"
        :key="i"
        v-model="settings.endpoints[i]!"
        :number="i + 1"
        :names="names"
        :has-problem="wrong(`endpoints.${i}.`)"
        :message-for="messageFor"
        @left="$emit('left', $event)"
        @drop="settings.endpoints.splice(i, 1)"
      />
    </div>
    <p v-if="!settings.endpoints.length" class="quiet">None. One looks up in a database, shows tags, or hands a message to bridges.</p>
    <v-btn class="more" @click="addEndpoint">Add an endpoint</v-btn>
    <h2 class="sheet-title next">Programs without a name may</h2>
    <RulesField
      v-model="settings.anonymous"
      what="Rights without a name"
      path="settings.anonymous"
      :folders="folders"
      :message-for="messageFor"
    />
    <h2 class="sheet-title next">Programs by name and token</h2>
    <HttpGuestFields
      v-for="(_, i) in settings.users"
      :key="i"
      v-model="settings.users[i]!"
      :number="i + 1"
      :folders="folders"
      :message-for="messageFor"
      @left="$emit('left', $event)"
      @drop="settings.users.splice(i, 1)"
    />
    <p v-if="!settings.users.length" class="quiet">None. A door that takes names lets in whoever is listed here.</p>
    <v-btn class="more" @click="addGuest">Add a name</v-btn>
    <template #folds>
      <SettingsFold
        title="Pages of others"
        :summary="settings.origins.length ? `from ${origins} may ask in a browser` : 'none may ask in a browser'"
        :has-problem="wrong('origins')"
      >
        <TextField
          v-model="origins"
          class="wide"
          label="Origins of pages that may ask"
          mono
          placeholder="https://office.port.example"
          :message="originProblem"
          @left="$emit('left', 'settings.origins.0')"
        />
      </SettingsFold>
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
.find {
  margin: 8px 0;
}
.room {
  max-height: 70vh;
  overflow: auto;
}
.wide {
  grid-column: 1 / -1;
}
</style>
