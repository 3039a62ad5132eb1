<script setup lang="ts">
import { counted } from '#core/text/counted'
import { isWithin } from '#core/tags/path'
import type { MapEntry } from '#core/modbus/map/entry'
import { proposed, usualWays, type Placeable } from '#core/modbus/map/propose'
import { tableRows } from '#shared/outlets/modbusServerCard'

/** Places for the tags of a folder that have none yet: what they would be, before anything is taken. */
const props = defineProps<{ tags: readonly Placeable[] | null; there: readonly MapEntry[]; unit: number }>()
const emit = defineEmits<{ take: [entries: MapEntry[]] }>()

const folders = useFolders()
const folder = ref('')
const ways = reactive({ ...usualWays })
const bools = [
  { value: 'coils' as const, title: 'coils', subtitle: 'one address each' },
  { value: 'bits' as const, title: 'bits of registers', subtitle: 'sixteen share one' },
]
const reals = [
  { value: 'float32' as const, title: 'two registers', subtitle: 'float32, which every client reads' },
  { value: 'own' as const, title: 'as the tag has them', subtitle: 'float64 takes four registers' },
]
const from = computed(() => (Number.isInteger(ways.from) && ways.from >= 0 && ways.from <= 65_535 ? ways.from : null))
const plan = computed(() => {
  if (!props.tags || from.value === null) return null
  const tags = folder.value === '' ? props.tags : props.tags.filter(({ path }) => isWithin(path, folder.value))
  return proposed(tags, props.there, { ...ways, unit: props.unit })
})
const places = computed(() => (plan.value ? tableRows({ map: plan.value.entries, unit: props.unit }) : []))
const left = computed(() => plan.value?.left ?? [])
</script>

<template>
  <section class="proposal" aria-label="Places for tags">
    <div class="fields">
      <SuggestField v-model="folder" label="Tags of folder" :among="folders" placeholder="the whole site" />
      <NumberField v-model="ways.from" label="From offset" :message="from === null ? '0 to 65535.' : ''" />
      <ChoiceField v-model="ways.bools" label="Bools as" :choices="bools" />
      <ChoiceField v-model="ways.reals" label="Fractions as" :choices="reals" />
    </div>
    <v-checkbox
      v-model="ways.apart"
      label="Tags that may only be read go to the tables that can only be read"
      density="compact"
      hide-details
    />
    <p v-if="tags === null" class="quiet">The tags of the site are being read.</p>
    <p v-else-if="plan && plan.entries.length === 0" class="quiet">
      {{ tags.length === 0 ? 'There are no tags yet.' : 'Every tag there that has a form has a place already.' }}
    </p>
    <p v-else-if="plan">
      <strong>{{ counted(plan.entries.length, 'tag') }}</strong> without a place
      <template v-for="{ label, text } in places" :key="label">
        · <span class="quiet">{{ label }}</span> <span class="mono">{{ text.split(',')[0] }}</span></template
      >
    </p>
    <p v-if="left.length" class="is-late">
      {{ counted(left.length, 'tag') }} left out: {{ left[0]!.path }}, {{ left[0]!.why
      }}<template v-if="left.length > 1"> and {{ left.length - 1 }} more</template>
    </p>
    <div class="buttons">
      <v-btn variant="flat" :disabled="!plan || plan.entries.length === 0" @click="emit('take', plan!.entries)">Give them places</v-btn>
      <slot />
    </div>
  </section>
</template>

<style scoped>
.proposal {
  display: grid;
  gap: 8px;
}
.fields {
  display: grid;
  grid-template-columns: minmax(0, 3fr) 110px minmax(0, 2fr) minmax(0, 2fr);
  gap: 10px;
}
p {
  margin: 0;
}
.buttons {
  display: flex;
  gap: 10px;
}
</style>
