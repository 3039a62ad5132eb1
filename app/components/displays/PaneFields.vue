<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { gridColumns, marks, mostLines, type Pane, type Shows } from '#core/displays/settings'
import { rollupWays } from '#core/equipment/settings'
import { windowUnits } from '#core/equipment/windows'
import { rollupWord } from '#core/equipment/words'
import { paneKinds } from '~/displays/blank'

/** What a pane shows, and where it lies. */
const props = defineProps<{ pane: Pane; className: string; messageFor(field: string): string }>()
const emit = defineEmits<{ change: [pane: Pane]; done: []; left: [field: string]; another: []; remove: []; close: [] }>()
const shows = computed(() => props.pane.shows)
const put = (fields: Partial<Pane>) => emit('change', { ...props.pane, ...fields })
const show = (fields: object) => put({ shows: { ...props.pane.shows, ...fields } as Shows })
const left = (field: string) => {
  emit('left', field)
  emit('done')
}
const title = computed(() => paneKinds.find(({ value }) => value === shows.value.kind)!.title)
const list = computed(() => (shows.value.kind === 'trend' || shows.value.kind === 'table' ? shows.value.of : []))
const setOne = (i: number, named: string) => show({ of: list.value.map((one, k) => (k === i ? named : one)) })
const spans = [
  { value: 60_000, title: 'the last minute' },
  { value: 600_000, title: 'the last 10 minutes' },
  { value: 3_600_000, title: 'the last hour' },
  { value: 28_800_000, title: 'the last 8 hours' },
  { value: 86_400_000, title: 'the last day' },
  { value: 604_800_000, title: 'the last week' },
  { value: 2_592_000_000, title: 'the last 30 days' },
]
const spanChoices = computed(() => {
  const { kind } = shows.value
  const length = kind === 'trend' ? shows.value.length : 0
  return spans.some(({ value }) => value === length) || kind !== 'trend'
    ? spans
    : [...spans, { value: length, title: `${length / 1000} s` }]
})
const howChoices = rollupWays.map((value) => ({ value, title: rollupWord(value) }))
const unitChoices = windowUnits.map((value) => ({ value, title: value }))
const markChoices = marks.map((value) => ({ value, title: value }))
const setEach = (fields: object) => shows.value.kind === 'windows' && show({ each: { ...shows.value.each, ...fields } })
const setMark = (i: number, fields: object) =>
  shows.value.kind === 'state' && show({ marks: shows.value.marks.map((one, k) => (k === i ? { ...one, ...fields } : one)) })
</script>

<template>
  <div class="fields">
    <div class="head">
      <h2 class="sheet-title">{{ title }}</h2>
      <button type="button" aria-label="Close" title="Close (Esc)" @click="emit('close')"><v-icon :icon="mdiClose" size="18" /></button>
    </div>
    <TextField
      :model-value="pane.title"
      label="Title"
      placeholder="as what it shows is called"
      :message="messageFor('title')"
      @update:model-value="put({ title: $event })"
      @left="left('title')"
    />
    <template v-if="shows.kind === 'value' || shows.kind === 'state' || shows.kind === 'windows'">
      <NamedField
        :model-value="shows.of"
        label="Of"
        :class-name="className"
        :message="messageFor('shows.of')"
        @update:model-value="show({ of: $event })"
        @left="left('shows.of')"
      />
    </template>
    <template v-if="shows.kind === 'value'">
      <div class="two">
        <NumberField
          :model-value="shows.decimals"
          label="Decimals"
          hint="Empty: as it is"
          :message="messageFor('shows.decimals')"
          @update:model-value="show({ decimals: $event })"
          @left="left('shows.decimals')"
        />
        <v-checkbox
          class="tick-field"
          :model-value="shows.scale !== null"
          label="With a level"
          @update:model-value="(show({ scale: $event ? { low: 0, high: 100 } : null }), emit('done'))"
        />
      </div>
      <div v-if="shows.scale" class="two">
        <NumberField
          :model-value="shows.scale.low"
          label="Empty at"
          :message="messageFor('shows.scale.low')"
          @update:model-value="show({ scale: { ...shows.scale, low: $event } })"
          @left="left('shows.scale.low')"
        />
        <NumberField
          :model-value="shows.scale.high"
          label="Full at"
          :message="messageFor('shows.scale.high')"
          @update:model-value="show({ scale: { ...shows.scale, high: $event } })"
          @left="left('shows.scale.high')"
        />
      </div>
    </template>
    <template v-else-if="shows.kind === 'state'">
      <p class="quiet">A value that is not named here is shown as flowing.</p>
      <div v-for="(one, i) in shows.marks" :key="i" class="mark">
        <TextField
          :model-value="one.is"
          label="When it is"
          placeholder="2, true or a name"
          :message="messageFor(`shows.marks.${i}.is`)"
          @update:model-value="setMark(i, { is: $event })"
          @left="left(`shows.marks.${i}.is`)"
        />
        <TextField :model-value="one.text" label="It says" @update:model-value="setMark(i, { text: $event })" @left="emit('done')" />
        <ChoiceField
          :model-value="one.mark"
          label="Drawn as"
          :choices="markChoices"
          @update:model-value="(setMark(i, { mark: $event }), emit('done'))"
        />
        <button
          type="button"
          class="out"
          aria-label="Take out"
          @click="(show({ marks: shows.marks.filter((_, k) => k !== i) }), emit('done'))"
        >
          ×
        </button>
      </div>
      <v-btn height="26" @click="(show({ marks: [...shows.marks, { is: '', text: '', mark: 'off' }] }), emit('done'))">+ State</v-btn>
    </template>
    <template v-else-if="shows.kind === 'trend' || shows.kind === 'table'">
      <div v-for="(named, i) in list" :key="i" class="one">
        <NamedField
          :model-value="named"
          :label="i === 0 ? 'Of' : 'And of'"
          :class-name="className"
          :message="messageFor(`shows.of.${i}`)"
          @update:model-value="setOne(i, $event)"
          @left="left(`shows.of.${i}`)"
        />
        <button
          v-if="list.length > 1"
          type="button"
          class="out"
          aria-label="Take out"
          @click="(show({ of: list.filter((_, k) => k !== i) }), emit('done'))"
        >
          ×
        </button>
      </div>
      <v-btn v-if="shows.kind === 'table' || list.length < mostLines" height="26" @click="(show({ of: [...list, ''] }), emit('done'))"
        >+ {{ shows.kind === 'trend' ? 'Line' : 'Row' }}</v-btn
      >
      <ChoiceField
        v-if="shows.kind === 'trend'"
        :model-value="shows.length"
        label="Over"
        :choices="spanChoices"
        @update:model-value="(show({ length: $event }), emit('done'))"
      />
    </template>
    <template v-else-if="shows.kind === 'windows'">
      <ChoiceField
        :model-value="shows.how"
        label="What is said of a window"
        :choices="howChoices"
        @update:model-value="(show({ how: $event }), emit('done'))"
      />
      <div class="three">
        <NumberField
          :model-value="shows.each.count"
          label="Each of"
          :message="messageFor('shows.each.count')"
          @update:model-value="setEach({ count: $event })"
          @left="left('shows.each.count')"
        />
        <ChoiceField
          :model-value="shows.each.unit"
          label="Unit of time"
          :choices="unitChoices"
          @update:model-value="(setEach({ unit: $event }), emit('done'))"
        />
        <NumberField
          :model-value="shows.count"
          label="How many"
          :message="messageFor('shows.count')"
          @update:model-value="show({ count: $event })"
          @left="left('shows.count')"
        />
      </div>
    </template>
    <template v-else-if="shows.kind === 'troubles'">
      <TextField
        :model-value="shows.below"
        label="In the folder"
        mono
        :placeholder="className ? 'the equipment' : 'the whole site'"
        :message="messageFor('shows.below')"
        @update:model-value="show({ below: $event })"
        @left="left('shows.below')"
      />
      <NumberField
        :model-value="shows.most"
        label="So many at most"
        :message="messageFor('shows.most')"
        @update:model-value="show({ most: $event })"
        @left="left('shows.most')"
      />
    </template>
    <AreaField
      v-else-if="shows.kind === 'words'"
      :model-value="shows.text"
      label="Text"
      :message="messageFor('shows.text')"
      @update:model-value="show({ text: $event })"
      @left="left('shows.text')"
    />
    <h3 class="sheet-title low">Where it lies</h3>
    <div class="four">
      <NumberField
        v-for="[field, label, most] in [
          ['x', 'Column', gridColumns],
          ['y', 'Row', 200],
          ['w', 'Columns wide', gridColumns],
          ['h', 'Rows high', 40],
        ] as const"
        :key="field"
        :model-value="field === 'x' || field === 'y' ? pane[field] + 1 : pane[field]"
        :label="label"
        :message="messageFor(field) || (pane[field] > most ? `At most ${most}.` : '')"
        @update:model-value="put({ [field]: field === 'x' || field === 'y' ? ($event ?? 1) - 1 : ($event ?? 1) })"
        @left="left(field)"
      />
    </div>
    <div class="buttons">
      <v-btn height="26" @click="emit('another')">Another like it</v-btn>
      <v-btn height="26" color="break" @click="emit('remove')">Take it out</v-btn>
    </div>
  </div>
</template>

<style scoped>
.fields {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.head {
  display: flex;
  justify-content: space-between;
}
p {
  margin: 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
}
.four {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px;
}
.mark {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr 16px;
  gap: 8px;
}
.one {
  display: grid;
  grid-template-columns: 1fr 16px;
  gap: 8px;
}
.one:only-child {
  grid-template-columns: 1fr;
}
.tick-field {
  align-self: center;
  margin-top: 10px;
}
.out {
  color: var(--quiet);
  font-size: 16px;
  align-self: start;
  margin-top: 26px;
}
.low {
  margin-top: 8px;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
