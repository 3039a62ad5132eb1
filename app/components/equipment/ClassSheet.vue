<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { classProblems } from '#core/equipment/problems'
import { classContract, levels, type ClassDraft, type Made } from '#core/equipment/settings'
import { classText } from '#core/equipment/words'
import { counted } from '#core/text/counted'
import { changeClass, makeClass, planClass } from '#shared/api/equipment'
import type { EquipmentClass, TagsPlan } from '#shared/equipment/equipment'
import { blankProperty, madeKinds } from '~/equipment/blank'

/** A class: its properties, and beside them what the change does to the equipment that is there. */
const props = defineProps<{ initial: ClassDraft; class: EquipmentClass | null }>()
const emit = defineEmits<{ saved: [saved: EquipmentClass] }>()
const store = useEquipment()
const session = useSession()

const form = useDraft<ClassDraft>(props.initial, classContract, (draft) => classProblems(draft, props.class?.name ?? null, store.model))
const { draft } = form
const { busy, refused, theirs, question, save, saveOverTheirs, take } = useSaving<ClassDraft, EquipmentClass>({
  form,
  opened: props.class,
  send: (draft, revision) =>
    props.class
      ? callApi(changeClass, { params: { id: props.class.id }, body: { revision, class: draft } })
      : callApi(makeClass, { body: draft }),
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: ({ name }) => `Class “${name}” saved.`,
  after: (saved) => emit('saved', saved),
})
const prefixed = (path: string) => (props.class ? `class.${path}` : path)
const message = (path: string) => form.messageFor(path) || form.fromServer.value.find((one) => one.path === prefixed(path))?.message || ''

const open = ref<number | null>(null)
const add = (kind: Made['kind']) => {
  draft.value.properties.push(blankProperty(kind, numbers.value.at(-1) ?? ''))
  open.value = draft.value.properties.length - 1
}
const remove = (i: number) => {
  draft.value.properties.splice(i, 1)
  open.value = null
}
const move = (i: number, by: number) => {
  const to = i + by
  if (to < 0 || to >= draft.value.properties.length) return
  draft.value.properties.splice(to, 0, ...draft.value.properties.splice(i, 1))
  if (open.value === i) open.value = to
}
const inherited = computed(() => store.model.propertiesOf(draft.value.parent))
const names = computed(() => [...new Set([...inherited.value, ...draft.value.properties].map(({ name }) => name))].filter(Boolean))
const numbers = computed(() =>
  draft.value.properties.filter(({ made, name }) => name && (made.kind === 'input' || made.kind === 'formula')).map(({ name }) => name),
)
const others = computed(() => store.classes.map(({ name }) => name).filter((name) => name !== props.class?.name))
const parentChoices = computed(() => [{ value: '', title: 'none' }, ...others.value.map((value) => ({ value, title: value }))])
const levelChoices = levels.map((value) => ({ value, title: value }))
const isWrong = (i: number) => form.triedToSave.value && [...form.problems.value.keys()].some((path) => path.startsWith(`properties.${i}.`))
const titles = Object.fromEntries(madeKinds.map(({ value, title }) => [value, title]))

const plan = shallowRef<TagsPlan | null>(null)
let turn = 0
const look = useDebounceFn(async () => {
  const mine = ++turn
  if (!props.class || !form.isValid.value || !session.can('configure')) return void (plan.value = null)
  const answer = await callApi(planClass, { body: { class: draft.value, id: props.class.id } }).catch(() => null)
  if (mine === turn) plan.value = answer
}, 400)
watch(draft, look, { deep: true, immediate: true })
const doesNothing = computed(() => plan.value !== null && plan.value.made + plan.value.changed + plan.value.removed === 0)
</script>

<template>
  <form class="sheet-columns" @submit.prevent="save">
    <section class="sheet main">
      <div class="four">
        <TextField
          v-model="draft.name"
          label="Name"
          placeholder="Frequency converter"
          :message="message('name')"
          @left="form.touch('name')"
        />
        <ChoiceField v-model="draft.parent" label="Made from" :choices="parentChoices" :message="message('parent')" />
        <ChoiceField v-model="draft.level" label="Level" :choices="levelChoices" />
        <TextField v-model="draft.description" label="Description" :message="message('description')" @left="form.touch('description')" />
      </div>
      <h2 class="sheet-title gap">Properties</h2>
      <table class="rows" aria-label="Properties">
        <tbody>
          <tr
            v-for="property in inherited.filter(({ name }) => !draft.properties.some((own) => own.name === name))"
            :key="property.name"
            class="quiet"
          >
            <td class="kind">{{ titles[property.made.kind] }}</td>
            <td>{{ property.name }}</td>
            <td>{{ classText(property.made) }}</td>
            <td>{{ property.unit }}</td>
            <td class="right">from {{ draft.parent }}</td>
          </tr>
          <template v-for="(property, i) in draft.properties" :key="i">
            <tr
              class="opens"
              :class="{ 'is-broken': isWrong(i) }"
              tabindex="0"
              @click="open = open === i ? null : i"
              @keydown.enter.prevent="open = open === i ? null : i"
              @keydown.alt.up.prevent="move(i, -1)"
              @keydown.alt.down.prevent="move(i, 1)"
            >
              <td class="quiet kind">{{ titles[property.made.kind] }}</td>
              <td>
                <strong>{{ property.name || 'without a name' }}</strong>
              </td>
              <td class="mono">{{ classText(property.made) }}</td>
              <td>{{ property.unit }}</td>
              <td class="right quiet">{{ open === i ? '–' : '+' }}</td>
            </tr>
            <tr v-if="open === i">
              <td colspan="5">
                <PropertyFields
                  v-model="draft.properties[i]!"
                  :names="names.filter((name) => name !== property.name)"
                  :classes="store.classes.map(({ name }) => name)"
                  :message-for="(field) => message(`properties.${i}.${field}`)"
                  @left="form.touch(`properties.${i}.${$event}`)"
                  @remove="remove(i)"
                />
              </td>
            </tr>
          </template>
          <tr v-if="inherited.length + draft.properties.length === 0">
            <td colspan="5" class="quiet">No properties yet. Begin with an input: a value that each piece of equipment gets from a tag.</td>
          </tr>
        </tbody>
      </table>
      <div class="buttons">
        <v-btn v-for="one in madeKinds" :key="one.value" height="26" :title="one.subtitle" @click="add(one.value)">+ {{ one.title }}</v-btn>
      </div>
      <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="take" @overwrite="saveOverTheirs" />
      <SheetFoot
        :title="props.class ? 'Save' : 'Make it'"
        :busy="busy"
        :is-new="props.class === null"
        :is-dirty="form.isDirty.value"
        :problems="form.triedToSave.value ? form.problems.value.size : 0"
        @back="form.reset(initial)"
      >
        <slot />
      </SheetFoot>
    </section>
    <section class="sheet beside">
      <h2 class="sheet-title">What this does</h2>
      <p v-if="!props.class" class="quiet">A new class has no equipment yet. What it says, each piece of equipment has as a tag.</p>
      <p v-else-if="!plan" class="quiet">Once nothing is wrong with it, it stands here what it does to the equipment of this class.</p>
      <template v-else>
        <p>{{ counted(plan.equipment, 'piece') }} of equipment {{ plan.equipment === 1 ? 'has' : 'have' }} this class.</p>
        <p v-if="doesNothing" class="quiet">No tag becomes another.</p>
        <p v-else>
          {{ counted(plan.made, 'tag') }} made, {{ plan.changed.toLocaleString('en-GB') }} changed,
          {{ plan.removed.toLocaleString('en-GB') }} removed.
        </p>
        <div v-if="plan.anew.length" class="anew">
          <p class="is-late">
            A rollup’s window and kind are what it is. These become others, which are made anew of what was recorded of what they roll up,
            for 50,000 windows at most; what was told by those before stays:
          </p>
          <p v-for="one in plan.anew" :key="one" class="mono one">{{ one }}</p>
        </div>
        <p v-for="one in plan.first" :key="one.path + one.text" class="one">
          <span class="mono">{{ one.path }}</span> <span class="quiet">{{ one.text }}</span>
        </p>
      </template>
    </section>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.main,
.beside {
  padding: 14px 16px;
}
.four {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.gap {
  margin: 16px 0 6px;
}
.kind {
  width: 90px;
  white-space: nowrap;
}
strong {
  font-weight: 600;
}
.right {
  text-align: right;
  white-space: nowrap;
}
td.mono {
  font-size: 12px;
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 10px;
}
.beside p {
  margin: 6px 0;
}
.beside .one {
  margin: 3px 0;
  overflow-wrap: anywhere;
}
.anew {
  border-left: 3px solid var(--copper);
  padding-left: 10px;
}
</style>
