<script setup lang="ts">
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { watchedProgram, type WatchedProgram } from '#core/isotcp/watched'
import { ageText } from '#core/text/duration'
import { changeLink, listPrograms } from '#shared/api/links'
import type { Link } from '#shared/links/link'
import type { WatchedStatus } from '#shared/links/watchedStatus'

/** Files of a program that are looked into again and again: how each is, and another one, read as is chosen beside. */
const props = defineProps<{ link: Link; how: Pick<WatchedProgram, 'folder' | 'block' | 'blocks' | 'rule' | 'missing'> }>()
const emit = defineEmits<{ saved: [link: Link] }>()
const live = useLive()
const notices = useNotices()
const session = useSession()

const everyMs = 3000
const statuses = ref<WatchedStatus[]>([])
const look = async () => {
  statuses.value = await callApi(listPrograms, { params: { id: props.link.id } }).catch(() => statuses.value)
}
const timer = setInterval(() => void look(), everyMs)
onMounted(look)
onUnmounted(() => clearInterval(timer))

const programs = computed(() => (props.link.settings as IsoTcpSettings).programs)
const statusOf = (program: WatchedProgram) => statuses.value.find(({ file, folder }) => file === program.file && folder === program.folder)
const root = ref('')
const file = ref('')
const then = ref<WatchedProgram['then']>('tell')
const triedToSave = ref(false)
const refused = ref<Refused | null>(null)
const busy = ref(false)
const draft = computed(() => watchedProgram.safeParse({ ...props.how, root: root.value, file: file.value, then: then.value }))
const messageOf = (field: string) =>
  !triedToSave.value || draft.value.success ? '' : (draft.value.error.issues.find(({ path }) => path[0] === field)?.message ?? '')
const taken = computed(() => programs.value.some(({ folder }) => draft.value.success && folder === draft.value.data.folder))
const roots = computed(() => [
  { value: '', title: live.status?.fileRoots[0] ?? 'the first allowed folder' },
  ...(live.status?.fileRoots ?? []).slice(1).map((one) => ({ value: one, title: one })),
])
const thens = [
  { value: 'tell' as const, title: 'it is told', subtitle: 'in the journal and here; somebody applies it' },
  { value: 'apply' as const, title: 'it is applied by itself', subtitle: 'like every revision it can be taken back' },
]

const save = async (next: WatchedProgram[], told: string) => {
  const { id, revision, ...link } = props.link
  busy.value = true
  refused.value = null
  try {
    const settings = { ...(props.link.settings as IsoTcpSettings), programs: next }
    const saved = await callApi(changeLink, { params: { id }, body: { revision, link: { ...link, settings } as never } })
    emit('saved', saved)
    notices.tell(told, saved.revision)
    triedToSave.value = false
    await look()
    return true
  } catch (error) {
    refused.value = asRefused(error)
    return false
  } finally {
    busy.value = false
  }
}
const add = async () => {
  triedToSave.value = true
  if (!draft.value.success || taken.value) return
  if (await save([...programs.value, draft.value.data], `${draft.value.data.file} is watched.`)) file.value = ''
}
const drop = (at: number) =>
  save(
    programs.value.filter((_, i) => i !== at),
    `${programs.value[at]!.file} is no longer watched.`,
  )
const flowOf = (state: WatchedStatus['state'] | undefined) =>
  state === 'waits' ? 'late' : state === 'unreadable' ? 'broken' : state === 'looking' || !state ? 'waiting' : 'flowing'
</script>

<template>
  <section class="sheet part">
    <h2 class="sheet-title">Watched files <span class="quiet light">looked into again and again, on the engine’s machine</span></h2>
    <table v-if="programs.length" class="rows" aria-label="Watched files">
      <thead>
        <tr>
          <th>Flow</th>
          <th>File</th>
          <th>Folder of its tags</th>
          <th>How it is</th>
          <th><span class="visually-hidden">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(one, i) in programs" :key="one.folder">
          <td><PipeGlyph :flow="flowOf(statusOf(one)?.state)" :width="38" /></td>
          <td class="mono wrap">{{ one.file }}</td>
          <td class="mono wrap">{{ one.folder || 'none' }}</td>
          <td>
            {{ statusOf(one)?.text ?? 'It is looked into.' }}
            <span v-if="statusOf(one)?.changedAt" class="quiet">
              Changed {{ ageText((live.status?.now ?? 0) - statusOf(one)!.changedAt!) }}.</span
            >
            <span v-if="statusOf(one)?.fault" class="quiet below">{{ statusOf(one)!.fault!.next }}</span>
          </td>
          <td class="actions">
            <v-btn
              v-if="statusOf(one)?.state === 'waits' && statusOf(one)?.importId"
              height="24"
              :to="`/tags/import?id=${statusOf(one)!.importId}`"
              >Look at it</v-btn
            >
            <v-btn v-if="session.can('configure')" height="24" :aria-label="`Drop ${one.file}`" @click="drop(i)">Drop</v-btn>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">None. Whatever writes the program to a folder of this machine can have its tags follow.</p>
    <template v-if="session.can('configure')">
      <div class="fields">
        <ChoiceField v-model="root" label="Below" :choices="roots" mono />
        <TextField v-model="file" label="File to watch" mono placeholder="programs/fc1.st" :message="messageOf('file')" />
        <ChoiceField v-model="then" label="When it says something else" :choices="thens" />
      </div>
      <p v-if="triedToSave && taken" class="is-broken">Another file has this folder already: each has one of its own.</p>
      <FaultNote v-if="refused" :fault="refused.why" />
      <BusyButton class="go" :busy="busy" @click="add">Watch it, read as above</BusyButton>
    </template>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  gap: 10px;
  padding: 14px 16px;
  margin-top: 16px;
}
.fields {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 4fr) minmax(0, 3fr);
  gap: 12px;
}
.go {
  justify-self: start;
}
.light {
  font-weight: 400;
}
.below {
  display: block;
}
.wrap {
  overflow-wrap: anywhere;
}
.actions > * + * {
  margin-left: 8px;
}
.actions {
  white-space: nowrap;
  text-align: right;
}
</style>
