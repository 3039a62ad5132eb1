<script setup lang="ts">
import { explain } from '#core/diagnosis/codes/explain'
import { listTags } from '#shared/api/tags'
import { refDebounced } from '@vueuse/core'
import { howText } from '#core/records/words'
import { outletFactsOf } from '#core/outlets/registry'
import { placeOf } from '#shared/links/link'
import type { Tag } from '#shared/tags'
import { factsOf } from '~/sources/registry'
import { places } from '~/stations'

interface Found {
  title: string
  detail: string
  path: string
}

const open = defineModel<boolean>({ required: true })
const lists = useLists()
const displays = useDisplays()
const text = ref('')
const settledText = refDebounced(text, 150)
const tags = shallowRef<Tag[]>([])
const chosen = ref(0)

const actions: Found[] = [
  ...places.map(({ title, path, key }) => ({ title: `Go to ${title}`, detail: `g ${key}`, path })),
  { title: 'New link', detail: 'action', path: '/links/new' },
  { title: 'New tag', detail: 'action', path: '/tags/new' },
  { title: 'New record set', detail: 'action', path: '/records/new' },
  { title: 'New bridge', detail: 'action', path: '/bridges/new' },
  { title: 'New outlet', detail: 'action', path: '/outlets/new' },
  { title: 'New display', detail: 'action', path: '/displays/new' },
  { title: 'Explain a code', detail: 'action', path: '/journal/codes' },
]

const matches = (words: string) => words.toLowerCase().includes(text.value.trim().toLowerCase())

const found = computed<Found[]>(() => {
  const links = lists.links
    .filter((link) => matches(`${link.name} ${placeOf(link)}`))
    .map((link) => ({ title: link.name, detail: `link · ${placeOf(link)}`, path: `/links/${link.id}` }))
  const outlets = lists.outlets
    .filter((outlet) => matches(outlet.name))
    .map((outlet) => ({
      title: outlet.name,
      detail: `outlet · ${outletFactsOf(outlet.kind).place(outlet.settings)}`,
      path: `/outlets/${outlet.id}`,
    }))
  const bridges = lists.bridges
    .filter(({ name }) => matches(name))
    .map(({ id, name }) => ({ title: name, detail: 'bridge', path: `/bridges/${id}` }))
  const sets = lists.recordSets
    .filter(({ name }) => matches(name))
    .map(({ id, name, how }) => ({ title: name, detail: `record set · ${howText(how)}`, path: `/records/${id}` }))
  const seen = displays.displays
    .filter(({ name }) => matches(name))
    .map(({ id, name, class: of }) => ({ title: name, detail: of ? `display · each ${of}` : 'display', path: `/displays/${id}` }))
  const points = tags.value.map((tag) => ({
    title: tag.path,
    detail: `tag · ${factsOf(tag, lists.links).full}`,
    path: `/tags?tag=${tag.id}`,
  }))
  const codes = explain(text.value)
    .slice(0, 4)
    .map(({ family, code, name, words }) => ({
      title: `${name}: ${words}`,
      detail: `code · ${family} ${code}`,
      path: `/journal/codes?text=${encodeURIComponent(text.value.trim())}`,
    }))
  const rest = actions.filter((action) => matches(action.title))
  return text.value.trim() ? [...links, ...sets, ...points, ...bridges, ...outlets, ...seen, ...codes, ...rest].slice(0, 14) : rest
})

watch(settledText, async (words) => {
  tags.value = words.trim()
    ? await callApi(listTags, { query: { limit: 8, find: words.trim() } }).then(
        (page) => page.items,
        () => [],
      )
    : []
})
watch([found, open], () => (chosen.value = 0))
watch(open, (isOpen) => isOpen && (text.value = ''))

const move = (by: number) => (chosen.value = Math.max(0, Math.min(found.value.length - 1, chosen.value + by)))
const go = (index = chosen.value) => {
  const target = found.value[index]
  if (!target) return
  open.value = false
  void navigateTo(target.path)
}
</script>

<template>
  <v-dialog v-model="open" max-width="620" location="top" class="finder" aria-label="Find">
    <div class="sheet">
      <input
        v-model="text"
        autofocus
        class="input"
        aria-label="Find a link, tag, address or action"
        placeholder="Find a link, tag, address or action"
        @keydown.down.prevent="move(1)"
        @keydown.up.prevent="move(-1)"
        @keydown.enter.prevent="go()"
      />
      <ul role="listbox" aria-label="Found">
        <li
          v-for="(entry, index) in found"
          :key="entry.path + entry.title"
          role="option"
          :aria-selected="index === chosen"
          :class="{ chosen: index === chosen }"
          @mousemove="chosen = index"
          @click="go(index)"
        >
          <span>{{ entry.title }}</span><span class="quiet">{{ entry.detail }}</span>
        </li>
        <li v-if="found.length === 0" class="quiet">Nothing goes by “{{ text }}”.</li>
      </ul>
    </div>
  </v-dialog>
</template>

<style scoped>
.input {
  width: 100%;
  padding: 12px 16px;
  font-size: 15px;
  outline: none;
  border-bottom: 1px solid var(--line);
}
ul {
  list-style: none;
  margin: 0;
  padding: 6px 0;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 16px;
  padding: 5px 16px;
  cursor: pointer;
}
li span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.chosen {
  background: var(--tint);
}
</style>
