<script setup lang="ts">
import { momentText } from '#core/text/moment'
import { counted } from '#core/text/counted'
import { changeDescription, listDescriptions, loadDescriptions, removeDescription, showDescription } from '#shared/api/deviceDescriptions'
import { listWhole } from '#shared/api/lists'
import type { DescriptionsLoaded, ListedDescription } from '#shared/sensors'

/** What makers say of their smart sensors: the files that are loaded, in which language they are told. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const known = shallowRef<ListedDescription[] | null>(null)
const { busy, refused, attempt } = useAttempt()
const left = shallowRef<DescriptionsLoaded['refused']>([])
const filter = ref('')
const isOver = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
const asking = shallowRef<ListedDescription | null>(null)

const list = async () => {
  try {
    known.value = (await callApi(listDescriptions, { query: { limit: listWhole, sort: 'name' } })).items
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(() => live.changes, list, { immediate: true })
const shown = computed(() => known.value?.filter(fitting(filter.value, ({ name, vendorName }) => `${name} ${vendorName}`)) ?? [])

const load = (files: FileList | null | undefined) =>
  attempt(async () => {
    left.value = []
    for (const file of files ?? []) {
      const found = await callApi(loadDescriptions, { query: { name: file.name }, body: file })
      left.value = [...left.value, ...found.refused]
      notices.tell(toldOf(found), found.revision ?? undefined)
    }
    if (chooser.value) chooser.value.value = ''
    await list()
  })
const toldOf = ({ loaded }: DescriptionsLoaded) => {
  const [first] = loaded
  if (loaded.length !== 1 || !first) return `${counted(loaded.length, 'description')} loaded.`
  return first.was === '' ? `“${first.name}” is loaded.` : `“${first.name}” takes the place of version ${first.was}.`
}
const drop = (event: DragEvent) => {
  isOver.value = false
  void load(event.dataTransfer?.files)
}
const tellIn = ({ id, revision }: ListedDescription, language: string) =>
  attempt(async () => {
    await callApi(changeDescription, { params: { id }, body: { revision, language } })
    await list()
  })
const save = ({ id, name }: ListedDescription) =>
  attempt(async () => {
    const { document } = await callApi(showDescription, { params: { id } })
    saveTextFile(`${name.replace(/[^\w.-]+/g, '-')}.xml`, document)
  })
const remove = async () => {
  const description = asking.value
  asking.value = null
  if (!description) return
  await attempt(async () => {
    const { revision } = await callApi(removeDescription, { params: { id: description.id } })
    notices.tell(`The description of “${description.name}” is removed.`, revision)
    await list()
  })
}
const isAsking = computed({ get: () => asking.value !== null, set: (open) => open || (asking.value = null) })
</script>

<template>
  <div class="page" :class="{ over: isOver }" @dragover.prevent="isOver = true" @dragleave="isOver = false" @drop.prevent="drop">
    <SiteHead>
      <ListFilter v-if="known && known.length > 5" v-model="filter" label="Filter by name or maker" />
      <Allowed role="configure">
        <BusyButton variant="flat" :busy="busy" @click="chooser?.click()">Load descriptions</BusyButton>
      </Allowed>
    </SiteHead>
    <input
      ref="chooser"
      class="visually-hidden"
      type="file"
      accept=".xml,.zip"
      multiple
      aria-label="Files with descriptions of devices"
      tabindex="-1"
      @change="load(chooser?.files)"
    />
    <FaultNote v-if="refused" :fault="refused.why" />
    <section v-if="left.length" class="sheet part">
      <h2 class="sheet-title">Not loaded</h2>
      <p v-for="one in left" :key="one.file">
        <span class="mono">{{ one.file }}</span>: {{ one.line ? `line ${one.line}: ` : '' }}{{ one.problem }}
      </p>
    </section>
    <section class="sheet part">
      <h2 class="sheet-title">
        Device descriptions <span class="quiet light">what smart sensors measure, by files of their makers (IODD)</span>
      </h2>
      <table v-if="shown.length" class="rows">
        <thead>
          <tr>
            <th>Device</th>
            <th>Maker</th>
            <th>Version</th>
            <th>Told in</th>
            <th>Loaded</th>
            <th><span class="d-sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in shown" :key="one.id">
            <td>
              <strong>{{ one.name }}</strong>
            </td>
            <td>{{ one.vendorName }}</td>
            <td class="quiet">{{ [one.version, one.released].filter(Boolean).join(', ') }}</td>
            <td>
              <v-select
                v-if="one.languages.length > 1 && session.can('configure')"
                :model-value="one.language"
                :items="one.languages"
                :aria-label="`Language of ${one.name}`"
                class="language"
                @update:model-value="tellIn(one, $event)"
              />
              <span v-else>{{ one.language }}</span>
            </td>
            <td class="quiet">{{ one.who }}, {{ momentText(one.at) }}</td>
            <td>
              <div class="actions">
                <v-btn height="24" @click="save(one)">Save file</v-btn>
                <v-btn v-if="session.can('configure')" height="24" @click="asking = one">Remove…</v-btn>
              </div>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="known?.length" class="quiet">No description goes by “{{ filter }}”.</p>
      <p v-else-if="known" class="quiet">
        None yet. Drop files here or load them: XML, or zip archives as makers give them out. A device whose description is loaded shows
        what it measures as soon as it is plugged in.
      </p>
    </section>
    <AskDialog v-model="isAsking" :title="`Remove the description of “${asking?.name}”?`" yes="Remove it" no="Keep" grave @yes="remove">
      <p>Tags that were taken by it stay as they are. New devices of this kind are not understood until it is loaded again.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.part {
  padding: 14px 18px;
  margin-bottom: 12px;
}
.over .part {
  outline: 2px dashed var(--copper);
}
.light {
  font-weight: 400;
}
.rows {
  width: 100%;
}
.language {
  max-width: 110px;
}
.actions {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
</style>
