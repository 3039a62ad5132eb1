<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { decoded, encodingOf } from '#core/formats/csv/encoding'
import type { LayoutRule } from '#core/isotcp/program/layOut'
import { programPoints } from '#core/isotcp/program/points'
import { programTable } from '#core/isotcp/program/table'
import { counted } from '#core/text/counted'
import { sendTable } from '#shared/api/imports'
import type { Link } from '#shared/links/link'

/** A file of a controller’s program: its variables with their places, and what that comes to beside the tags there are. */
const props = defineProps<{ link: Link }>()
defineEmits<{ saved: [link: Link] }>()

const mostBytes = 8 * 1024 * 1024
const mostShown = 500
const chooser = ref<HTMLInputElement | null>(null)
const name = ref('')
const text = ref('')
const block = ref<number | null>(null)
/** Blocks of single groups, by their names. */
const blocks = reactive<Record<string, number | null>>({})
const rule = ref<LayoutRule>('even')
const folder = ref(
  props.link.name
    .toLowerCase()
    .replace(/[^\w-]+/g, '_')
    .replace(/^_+|_+$/g, ''),
)
const missing = ref<'stay' | 'remove'>('stay')
const busy = ref(false)
const problem = ref('')
const refused = ref<Refused | null>(null)
const rules = [
  { value: 'even' as const, title: 'words at even bytes', subtitle: 'bits fill bytes' },
  { value: 'natural' as const, title: 'each at its own size', subtitle: 'a bit takes a byte' },
]
const missings = [
  { value: 'stay' as const, title: 'stay as they are' },
  { value: 'remove' as const, title: 'are removed', subtitle: 'in this folder and of this link only' },
]

const take = async (files: FileList | null | undefined) => {
  const [file] = files ?? []
  if (!file) return
  problem.value = file.size > mostBytes ? `${file.name} is larger than 8 MB, and no file of declarations.` : ''
  if (problem.value) return
  const bytes = new Uint8Array(await file.arrayBuffer())
  name.value = file.name
  text.value = decoded(bytes, encodingOf(bytes))
}
const messageOf = (number: number | null | undefined) =>
  number === null || number === undefined || (Number.isInteger(number) && number >= 1 && number <= 65_535)
    ? ''
    : 'A block has a number from 1 to 65535.'
const blockMessage = computed(() => messageOf(block.value))
const ownBlocks = computed(() =>
  Object.fromEntries(
    Object.entries(blocks).flatMap(([name, number]) => (number !== null && messageOf(number) === '' ? [[name, number]] : [])),
  ),
)
const wanted = computed(() => ({
  ...{ text: text.value, rule: rule.value, folder: folder.value.trim() },
  ...{ block: blockMessage.value === '' ? block.value : null, blocks: ownBlocks.value },
}))
const settled = refDebounced(wanted, 250)
const found = computed(() => {
  const { text: source, ...how } = settled.value
  return source.trim() === '' ? null : programPoints(source, how)
})
const groups = computed(() => found.value?.groups ?? [])
const shown = computed(() => found.value?.points.slice(0, mostShown) ?? [])

/** What it comes to is shown where every table of tags shows it. */
const compare = async () => {
  if (!found.value) return
  busy.value = true
  refused.value = null
  try {
    const body = new Blob([programTable(found.value.points, props.link.name)])
    const query = {
      name: name.value || 'program',
      missing: missing.value,
      below: folder.value.trim(),
      link: props.link.id,
      program: 'yes' as const,
    }
    const { id } = await callApi(sendTable, { query, body }, { timeoutMs: 120_000 })
    await navigateTo(`/tags/import?id=${id}`)
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="columns">
    <section class="sheet part" @dragover.prevent @drop.prevent="take($event.dataTransfer?.files)">
      <p class="quiet">
        Drop a file here, choose one, or paste its text: declarations as IEC 61131-3 writes them (TYPE, VAR), a table of symbols (name,
        address, type, comment), the layout of a block (name, type, offset), or a project as PLCopen TC6 XML.
      </p>
      <div class="row">
        <v-btn @click="chooser?.click()">Choose a file</v-btn>
        <span class="mono quiet">{{ name }}</span>
      </div>
      <input
        ref="chooser"
        class="visually-hidden"
        type="file"
        aria-label="File of a program"
        tabindex="-1"
        @change="take(chooser?.files)"
      />
      <p v-if="problem" class="is-broken">{{ problem }}</p>
      <AreaField v-model="text" label="Text" :rows="8" placeholder="VAR_GLOBAL frequency : REAL; (* Hz *) END_VAR" />
      <div class="two">
        <NumberField v-model="block" label="Block of what has no address" :message="blockMessage" hint="empty: it is left out" />
        <ChoiceField v-model="rule" label="It lies there with" :choices="rules" />
        <TextField v-model="folder" label="Folder of its tags" mono />
        <ChoiceField v-model="missing" label="Tags that it does not name" :choices="missings" />
      </div>
      <div v-if="groups.length > 1" class="room groups" role="group" aria-label="Blocks of groups">
        <div v-for="one in groups" :key="one.name" class="group">
          <span
            ><span class="mono">{{ one.name || 'without a name' }}</span>
            <span class="quiet"> {{ counted(one.variables, 'variable') }}, {{ counted(one.bytes, 'byte') }}</span></span
          >
          <NumberField
            :model-value="blocks[one.name] ?? null"
            :label="`Block of ${one.name || 'the group without a name'}`"
            :message="messageOf(blocks[one.name])"
            :hint="block === null ? 'empty: it is left out' : `empty: ${block}`"
            @update:model-value="blocks[one.name] = $event"
          />
        </div>
      </div>
      <FaultNote v-if="refused" :fault="refused.why" />
      <BusyButton variant="flat" class="go" :busy="busy" :disabled="!found?.points.length" @click="compare"
        >Compare with the tags</BusyButton
      >
    </section>
    <section class="sheet part" aria-live="polite">
      <h2 class="sheet-title">
        What it declares
        <span v-if="found" class="quiet light">{{ counted(found.points.length, 'variable') }}</span>
      </h2>
      <p v-if="!found" class="quiet">Nothing is made before you have seen what it comes to.</p>
      <template v-else>
        <p v-if="groups.some((one) => one.block === null)" class="is-late">Some of it names no address: say in which block it lies.</p>
        <p v-for="one in found.problems.slice(0, 20)" :key="`${one.line} ${one.text}`" class="is-late">
          <template v-if="one.line > 0">Line {{ one.line }}: </template>{{ one.text }}
        </p>
        <p v-if="found.problems.length > 20" class="is-late">and {{ found.problems.length - 20 }} more.</p>
        <div v-if="shown.length" class="room">
          <table class="rows" aria-label="Variables">
            <thead>
              <tr>
                <th>Path</th>
                <th>Address</th>
                <th>Type</th>
                <th>Comment</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in shown" :key="`${one.path} ${one.line}`">
                <td class="mono wrap">{{ one.path }}</td>
                <td class="mono">{{ one.address }}</td>
                <td class="mono">
                  {{ one.type }}{{ one.length === null ? '' : ` ${one.length}` }}{{ one.count === null ? '' : ` ×${one.count}` }}
                </td>
                <td>{{ one.description }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="found.points.length > mostShown" class="quiet">
          The first {{ mostShown }} are shown; all {{ found.points.length.toLocaleString('en-GB') }} are compared.
        </p>
      </template>
    </section>
  </div>
  <WatchedPrograms
    :link="link"
    :how="{ folder: folder.trim(), block: wanted.block, blocks: wanted.blocks, rule, missing }"
    @saved="$emit('saved', $event)"
  />
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
  gap: 16px;
  align-items: start;
}
.part {
  display: grid;
  gap: 10px;
  padding: 14px 16px;
}
.row {
  display: flex;
  align-items: center;
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.groups {
  display: grid;
  gap: 8px;
}
.group {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 190px;
  gap: 12px;
  align-items: center;
}
.go {
  justify-self: start;
}
.light {
  font-weight: 400;
}
.room {
  max-height: 62vh;
  overflow: auto;
}
.wrap {
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
</style>
