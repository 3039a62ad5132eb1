<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import { blankWay } from '~/outlets/blankCloud'

/** Settings of a platform: how it is reached left; what of the site goes there right. */
const settings = defineModel<CloudPlatformSettings>({ required: true })
const props = defineProps<{
  messageFor(path: string): string
  problems: ReadonlyMap<string, string>
  triedToSave: boolean
}>()
const emit = defineEmits<{ left: [path: string] }>()

const folders = useFolders()
const equipment = useEquipment()
const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (part: string) => props.triedToSave && [...props.problems.keys()].some((path) => path.startsWith(`settings.${part}`))

const kinds = [
  { value: 'http' as const, title: 'HTTP', subtitle: 'JSON, packed with gzip' },
  { value: 'mqtt' as const, title: 'MQTT 5', subtitle: 'requests and answers over a broker' },
]
/** What was typed for the other way is there again when one comes back to it. */
const other = new Map<string, CloudPlatformSettings['way']>()
const goBy = (kind: CloudPlatformSettings['way']['kind']) => {
  if (kind === settings.value.way.kind) return
  other.set(settings.value.way.kind, settings.value.way)
  settings.value.way = other.get(kind) ?? blankWay(kind)
}

const areas = computed(() => equipment.equipment.map(({ path }) => path))
const isWhole = computed(() => settings.value.model.areas.includes(''))
const chooseWhole = (whole: boolean | null) => (settings.value.model.areas = whole ? [''] : [])
const areaMessage = computed(() => {
  const index = settings.value.model.areas.findIndex((_, i) => message(`model.areas.${i}`))
  return index < 0 ? '' : message(`model.areas.${index}`)
})
const follows = [
  { value: 'after the first' as const, title: 'by themselves, after the first plan' },
  { value: 'at once' as const, title: 'by themselves, from the start' },
  { value: 'asked' as const, title: 'only when somebody says so' },
]
const names = [
  { value: 'here' as const, title: 'the one here', subtitle: 'what is renamed there is renamed back' },
  { value: 'there' as const, title: 'the one there', subtitle: 'once it was made' },
]
const addStreams = () => settings.value.streams.push({ folder: '', every: null })
const sendingText = computed(() => {
  const { every, most, kept } = settings.value.sending
  const pause = Number.isFinite(every) ? duration(every) : '—'
  return `every ${pause}, ${most} values a message, up to ${kept} MB kept while it takes nothing`
})
</script>

<template>
  <section class="sheet part">
    <slot name="head" />
    <h2 class="sheet-title next">Platform <span class="quiet light">where it is, and by what it lets us in</span></h2>
    <div class="pair">
      <ChoiceField :model-value="settings.way.kind" label="Reached by" :choices="kinds" @update:model-value="goBy" />
      <TextField
        v-model="settings.site"
        label="It knows this site as"
        mono
        hint="part of addresses there"
        :message="message('site')"
        @left="left('site')"
      />
    </div>
    <CloudHttpFields
      v-if="settings.way.kind === 'http'"
      v-model="settings.way"
      :message="(path) => message(`way.${path}`)"
      :has-problem="(part) => wrong(`way.${part}`)"
      @left="left(`way.${$event}`)"
    />
    <CloudMqttFields
      v-else
      v-model="settings.way"
      :message="(path) => message(`way.${path}`)"
      :has-problem="(part) => wrong(`way.${part}`)"
      @left="left(`way.${$event}`)"
    />
  </section>
  <section class="sheet part">
    <h2 class="sheet-title">Equipment <span class="quiet light">classes, pieces and the values that they have</span></h2>
    <v-switch v-model="settings.model.on" label="Stands there too" />
    <template v-if="settings.model.on">
      <v-switch :model-value="isWhole" label="All of the site" @update:model-value="chooseWhole" />
      <div v-if="!isWhole">
        <label class="label" for="areas">Equipment, with all below</label>
        <v-combobox
          id="areas"
          v-model="settings.model.areas"
          :items="areas"
          multiple
          chips
          closable-chips
          placeholder="none yet"
          class="mono"
          :error-messages="areaMessage"
        />
      </div>
      <div class="pair gap">
        <NumberField
          v-model="settings.model.every"
          label="One value each at most every"
          unit="ms"
          hint="empty: each change"
          :message="message('model.every')"
          @left="left('model.every')"
        />
        <ChoiceField v-model="settings.model.follow" label="Changes of the model follow" :choices="follows" />
        <ChoiceField v-model="settings.model.names" label="Whose name holds" :choices="names" />
      </div>
    </template>
    <h2 class="sheet-title next">Other tags <span class="quiet light">as streams that equipment there may be bound to later</span></h2>
    <div v-for="(one, i) in settings.streams" :key="i" class="stream">
      <v-combobox
        :model-value="one.folder || null"
        :items="folders"
        :aria-label="`Folder ${i + 1}`"
        placeholder="the whole site"
        class="mono"
        :error-messages="message(`streams.${i}.folder`)"
        @update:model-value="one.folder = $event ?? ''"
      />
      <NumberField
        v-model="one.every"
        label="At most every"
        unit="ms"
        hint="empty: each change"
        :message="message(`streams.${i}.every`)"
        @left="left(`streams.${i}.every`)"
      />
      <v-btn height="26" @click="settings.streams.splice(i, 1)">Drop</v-btn>
    </div>
    <p v-if="!settings.streams.length" class="quiet">None besides those of equipment.</p>
    <v-btn class="more" @click="addStreams">Add a folder</v-btn>
    <div class="folds">
      <SettingsFold title="Sending" :summary="sendingText" :has-problem="wrong('sending')">
        <NumberField
          v-model="settings.sending.every"
          label="Gathered for"
          unit="ms"
          :message="message('sending.every')"
          @left="left('sending.every')"
        />
        <NumberField
          v-model="settings.sending.most"
          label="Values of a message"
          hint="at most"
          :message="message('sending.most')"
          @left="left('sending.most')"
        />
        <NumberField
          v-model="settings.sending.kept"
          label="Kept while it takes nothing"
          unit="MB"
          hint="beyond, the oldest is dropped"
          :message="message('sending.kept')"
          @left="left('sending.kept')"
        />
      </SettingsFold>
    </div>
    <slot name="foot" />
  </section>
</template>

<style scoped>
.part {
  padding: 14px 16px;
}
.light {
  font-weight: 400;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 12px;
  margin-top: 8px;
}
.gap,
.more {
  margin-top: 10px;
}
.next {
  margin-top: 16px;
  padding-top: 12px;
  border-top: 1px solid var(--line-soft);
}
.stream {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 190px auto;
  gap: 10px;
  align-items: end;
  margin-top: 8px;
}
.folds {
  margin-top: 16px;
}
</style>
