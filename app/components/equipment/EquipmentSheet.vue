<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { counted } from '#core/text/counted'
import { equipmentProblems } from '#core/equipment/problems'
import { equipmentContract, levels, type EquipmentDraft, type Property } from '#core/equipment/settings'
import { changeEquipment, makeEquipment, proposeBindings } from '#shared/api/equipment'
import type { Equipment, ProposedBinding } from '#shared/equipment/equipment'
import { typedValue } from '~/equipment/typed'

/** A piece of equipment: where it belongs, its own values, and the tags that are its inputs. */
const props = defineProps<{ initial: EquipmentDraft; equipment: Equipment | null }>()
const emit = defineEmits<{ saved: [equipment: Equipment] }>()
const store = useEquipment()

const form = useDraft<EquipmentDraft>(props.initial, equipmentContract, (draft) =>
  equipmentProblems(draft, props.equipment?.id ?? null, store.model),
)
const { draft } = form
const { busy, refused, theirs, question, save, saveOverTheirs, take } = useSaving<EquipmentDraft, Equipment>({
  form,
  opened: props.equipment,
  send: (equipment, revision) =>
    props.equipment
      ? callApi(changeEquipment, { params: { id: props.equipment.id }, body: { revision, equipment } })
      : callApi(makeEquipment, { body: equipment }),
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: ({ path }) => `Equipment “${path}” saved.`,
  after: (saved) => emit('saved', saved),
})

const classChoices = computed(() => [
  { value: '', title: 'none', subtitle: 'it only holds others together' },
  ...store.classes.map(({ name, description }) => ({ value: name, title: name, subtitle: description })),
])
const levelChoices = computed(() => [
  { value: null, title: store.model.levelOf({ level: null, class: draft.value.class }), subtitle: 'as its class has it' },
  ...levels.map((value) => ({ value, title: value })),
])
const properties = computed(() => store.model.propertiesOf(draft.value.class))
const inputs = computed(() => properties.value.filter(({ made }) => made.kind === 'input'))
const constants = computed(() => properties.value.filter(({ made }) => made.kind === 'constant'))
const titleOf = ({ title, name, unit }: Property) => `${title || name}${unit ? `, ${unit}` : ''}`

const constantText = (name: string) => (name in draft.value.constants ? String(draft.value.constants[name]) : '')
const ofClass = ({ made }: Property) =>
  made.kind === 'constant' && made.value !== null ? `${made.value}, as the class has it` : 'no value yet'
const setConstant = (property: Property, text: string | null) => {
  const { [property.name]: _before, ...others } = draft.value.constants
  const trimmed = (text ?? '').trim()
  if (trimmed === '') return void (draft.value.constants = others)
  draft.value.constants = { ...others, [property.name]: typedValue(trimmed, property.type) }
}
const bind = (name: string, path: string) => {
  const { [name]: _before, ...others } = draft.value.bindings
  draft.value.bindings = path === '' ? others : { ...others, [name]: path }
}

const folder = ref('')
const proposed = shallowRef<ProposedBinding[]>([])
const look = async () => {
  if (draft.value.class === '' || inputs.value.length === 0) return void (proposed.value = [])
  proposed.value = await callApi(proposeBindings, { body: { class: draft.value.class, folder: folder.value.trim() } }).catch(() => [])
}
const lookSoon = useDebounceFn(look, 300)
watch([() => draft.value.class, folder], lookSoon, { immediate: true })
const fresh = computed(() => proposed.value.filter(({ property, path }) => draft.value.bindings[property] !== path))
const takeAll = () => {
  for (const { property, path } of fresh.value) if (!draft.value.bindings[property]) bind(property, path)
}
const unbound = computed(() => inputs.value.filter(({ name }) => !draft.value.bindings[name]).length)
/** What was bound or given under a class that is no longer chosen goes. */
watch(
  () => draft.value.class,
  () => {
    const names = new Set(properties.value.map(({ name }) => name))
    const left = <T,>(all: Record<string, T>) => Object.fromEntries(Object.entries(all).filter(([name]) => names.has(name)))
    draft.value.bindings = left(draft.value.bindings)
    draft.value.constants = left(draft.value.constants)
  },
)
const back = () => form.reset(props.initial)
</script>

<template>
  <form class="sheet-columns" @submit.prevent="save">
    <section class="sheet fields-sheet">
      <div class="two">
        <SuggestField
          v-model="draft.path"
          label="Place and name"
          placeholder="Harrow Sound/Berth 2/Converter"
          :among="store.equipment.map(({ path }) => `${path}/`)"
          :message="form.messageFor('path')"
          hint="What it is part of, then its own name"
          @left="form.touch('path')"
        />
        <ChoiceField v-model="draft.class" label="Class" :choices="classChoices" :message="form.messageFor('class')" />
        <ChoiceField v-model="draft.level" label="Level" :choices="levelChoices" />
        <TextField
          v-model="draft.description"
          label="Description"
          :message="form.messageFor('description')"
          @left="form.touch('description')"
        />
      </div>
      <template v-if="inputs.length">
        <h2 class="sheet-title gap">Inputs</h2>
        <div class="two">
          <TagField
            v-for="property in inputs"
            :key="property.name"
            :model-value="draft.bindings[property.name] ?? ''"
            :label="titleOf(property)"
            placeholder="not bound"
            :message="form.messageFor(`bindings.${property.name}`)"
            @update:model-value="bind(property.name, $event)"
            @left="form.touch(`bindings.${property.name}`)"
          />
        </div>
      </template>
      <template v-if="constants.length">
        <h2 class="sheet-title gap">Own values of constants</h2>
        <div class="two">
          <TextField
            v-for="property in constants"
            :key="property.name"
            :model-value="constantText(property.name)"
            :label="titleOf(property)"
            :placeholder="ofClass(property)"
            mono
            :message="form.messageFor(`constants.${property.name}`)"
            @update:model-value="setConstant(property, $event)"
            @left="form.touch(`constants.${property.name}`)"
          />
        </div>
      </template>
      <SettingsFold
        title="Relations"
        :summary="draft.relations.length === 0 ? 'none besides being part of something' : counted(draft.relations.length, 'relation')"
        :has-problem="form.triedToSave.value && [...form.problems.value.keys()].some((path) => path.startsWith('relations'))"
      >
        <template v-for="(relation, i) in draft.relations" :key="i">
          <TextField
            v-model="relation.kind"
            label="What it is to the other"
            placeholder="feeds"
            :message="form.messageFor(`relations.${i}.kind`)"
          />
          <SuggestField
            v-model="relation.to"
            label="Which equipment"
            :among="store.equipment.map(({ path }) => path)"
            :message="form.messageFor(`relations.${i}.to`)"
          />
          <v-btn class="low" @click="draft.relations.splice(i, 1)">Take out</v-btn>
        </template>
        <v-btn class="low" @click="draft.relations.push({ kind: '', to: '' })">Another relation</v-btn>
      </SettingsFold>
      <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="take" @overwrite="saveOverTheirs" />
      <SheetFoot
        :title="equipment ? 'Save' : 'Make it'"
        :busy="busy"
        :is-new="equipment === null"
        :is-dirty="form.isDirty.value"
        :problems="form.triedToSave.value ? form.problems.value.size : 0"
        @back="back"
      >
      </SheetFoot>
    </section>
    <section class="sheet beside">
      <h2 class="sheet-title">What may be its inputs</h2>
      <p v-if="inputs.length === 0" class="quiet">Its class has no inputs.</p>
      <template v-else>
        <p :class="unbound > 0 ? 'is-late' : 'quiet'">
          {{ unbound === 0 ? 'All inputs are bound.' : `${counted(unbound, 'input')} not bound yet.` }}
        </p>
        <TextField v-model="folder" label="Look in the folder" placeholder="berth/2" mono hint="Empty: everywhere" />
        <div v-for="one in fresh" :key="one.property" class="proposal">
          <span
            ><strong>{{ one.property }}</strong> <span class="quiet">{{ one.why }}</span></span
          >
          <span class="mono path">{{ one.path }}</span>
          <v-btn height="26" @click="bind(one.property, one.path)">Bind</v-btn>
        </div>
        <p v-if="fresh.length === 0" class="quiet">No further tag goes by the name, type and unit of an input there.</p>
        <v-btn v-else-if="fresh.some(({ property }) => !draft.bindings[property])" class="low" @click="takeAll">Bind all of these</v-btn>
      </template>
    </section>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.fields-sheet,
.beside {
  padding: 14px 16px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.gap {
  margin: 16px 0 8px;
}
.low {
  align-self: end;
  margin-top: 10px;
}
.proposal {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 10px;
  align-items: center;
  padding: 7px 0;
  border-top: 1px solid var(--line-soft);
}
.proposal .path {
  grid-column: 1;
  overflow-wrap: anywhere;
}
.proposal .v-btn {
  grid-column: 2;
  grid-row: 1 / span 2;
}
.beside p {
  margin: 6px 0;
}
</style>
