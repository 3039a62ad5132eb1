<script setup lang="ts">
import { listWhole } from '#shared/api/lists'
import { changePerson, givePassword, letIn, listPeople, listTokens, makeToken, removePerson, takeTokenBack } from '#shared/api/people'
import { momentText } from '#core/text/moment'
import { roles, roleText, type Role } from '#core/access/roles'
import type { ApiToken, Person } from '#shared/people'

const session = useSession()
const notices = useNotices()
const people = shallowRef<Person[] | null>(null)
const tokens = shallowRef<ApiToken[] | null>(null)
const refused = shallowRef<Refused | null>(null)
const told = shallowRef<{ title: string; secret: string } | null>(null)
const draft = reactive({ name: '', role: 'look' as Role })
const tokenDraft = reactive({ name: '', role: 'look' as Role, days: 90 as number | null })
const problem = shallowRef<Refused | null>(null)
const asking = shallowRef<{ title: string; text: string; yes: string; work: () => Promise<unknown> } | null>(null)
const { copied, copy } = useCopy()

const load = async () => {
  try {
    const whole = { query: { limit: listWhole } }
    const [everybody, programs] = await Promise.all([callApi(listPeople, whole), callApi(listTokens, whole)])
    people.value = everybody.items
    tokens.value = programs.items
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
await load()

const act = async (work: () => Promise<unknown>) => {
  problem.value = null
  try {
    await work()
  } catch (error) {
    problem.value = asRefused(error)
  }
  await load()
}
const addPerson = () =>
  act(async () => {
    const { person, password } = await callApi(letIn, { body: draft })
    told.value = { title: `The password of “${person.name}”, for the first sign-in`, secret: password }
    draft.name = ''
  })
const change = (person: Person, changes: Partial<Pick<Person, 'role' | 'on'>>) =>
  act(() => callApi(changePerson, { params: { id: person.id }, body: { role: person.role, on: person.on, ...changes } }))
const newPassword = (person: Person) =>
  ask(`Give “${person.name}” a new password?`, 'The present one ends, and with it every open session.', 'Give a new one', async () => {
    const { password } = await callApi(givePassword, { params: { id: person.id } })
    told.value = { title: `The password of “${person.name}”, for the next sign-in`, secret: password }
  })
const askToRemove = (person: Person) =>
  ask(`Remove “${person.name}”?`, 'Open sessions end. What they changed stays in the revisions under their name.', 'Remove', () =>
    callApi(removePerson, { params: { id: person.id } }),
  )
const addToken = () =>
  act(async () => {
    const { token, shown } = await callApi(makeToken, { body: { ...tokenDraft, days: tokenDraft.days ?? 0 } })
    told.value = { title: `The token “${shown.name}”`, secret: token }
    tokenDraft.name = ''
  })
const removeToken = (token: ApiToken) =>
  ask(`Take back the token “${token.name}”?`, 'The program that carries it is a stranger from then on.', 'Take it back', () =>
    callApi(takeTokenBack, { params: { id: token.id } }),
  )

const ask = (title: string, text: string, yes: string, work: () => Promise<unknown>) => (asking.value = { title, text, yes, work })
const isAsking = computed({ get: () => asking.value !== null, set: (open) => open || (asking.value = null) })
const confirm = () => {
  const { work } = asking.value!
  asking.value = null
  void act(work)
}
const message = (path: string) => problem.value?.fields.find((field) => field.path === path)?.message ?? ''
const choices = roles.map((role) => ({ value: role, title: role, subtitle: roleText[role] }))
const when = (time: string | null) => (time ? momentText(time) : 'never')
const copySecret = async () => {
  await copy(told.value!.secret)
  notices.tell('Copied.')
}
</script>

<template>
  <div class="page">
    <SiteHead />
    <FaultNote v-if="refused" :fault="refused.why" />
    <section v-if="told" class="sheet told" role="status">
      <h2 class="sheet-title">{{ told.title }}</h2>
      <p class="mono secret">{{ told.secret }}</p>
      <p class="quiet">It is shown this once and kept nowhere. Pass it on by a safe way.</p>
      <div class="buttons">
        <v-btn variant="flat" @click="copySecret">{{ copied === told.secret ? 'Copied' : 'Copy' }}</v-btn>
        <v-btn @click="told = null">I have it</v-btn>
      </div>
    </section>
    <FaultNote v-if="problem && problem.fields.length === 0" :fault="problem.why" class="gap" />
    <div v-if="people && tokens" class="sheet-columns">
      <section class="sheet part">
        <h2 class="sheet-title">People <span class="quiet light">who may sign in, and what they may do</span></h2>
        <table class="rows">
          <thead>
            <tr>
              <th>Name</th>
              <th>Role</th>
              <th>Last here</th>
              <th><span class="d-sr-only">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="person in people" :key="person.id" :class="{ out: !person.on }">
              <td>
                <strong>{{ person.name }}</strong>
                <small v-if="person.name === session.who?.name" class="quiet"> you</small>
                <small v-if="!person.on" class="is-late"> shut out</small>
                <small v-else-if="person.mustChange" class="quiet"> has a password for once</small>
              </td>
              <td class="role">
                <v-select
                  :model-value="person.role"
                  :items="choices"
                  item-props
                  :aria-label="`Role of ${person.name}`"
                  @update:model-value="change(person, { role: $event })"
                />
              </td>
              <td class="quiet">{{ when(person.seenAt) }}</td>
              <td>
                <div class="actions">
                  <v-btn height="24" @click="newPassword(person)">New password…</v-btn>
                  <v-btn height="24" @click="change(person, { on: !person.on })">{{ person.on ? 'Shut out' : 'Let in' }}</v-btn>
                  <v-btn height="24" @click="askToRemove(person)">Remove…</v-btn>
                </div>
              </td>
            </tr>
          </tbody>
        </table>
        <form class="add" @submit.prevent="addPerson">
          <TextField v-model="draft.name" label="Let somebody in" placeholder="Name" :message="message('name')" />
          <ChoiceField v-model="draft.role" label="To" :choices="choices" />
          <v-btn type="submit" variant="flat" class="low" :disabled="!draft.name.trim()">Let in</v-btn>
        </form>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Tokens <span class="quiet light">for programs that use the API</span></h2>
        <table v-if="tokens.length" class="rows">
          <tbody>
            <tr v-for="token in tokens" :key="token.id">
              <td>
                <strong>{{ token.name }}</strong><br /><span class="quiet">to {{ token.role }}, by {{ token.madeBy }}</span>
              </td>
              <td class="quiet">
                <span :class="{ 'is-broken': new Date(token.expiresAt) < new Date() }"
                  >ends {{ momentText(token.expiresAt).slice(0, 10) }}</span
                ><br />used {{ when(token.usedAt) }}
              </td>
              <td>
                <div class="actions"><v-btn height="24" @click="removeToken(token)">Take back…</v-btn></div>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-else class="quiet">None. A program sends its token as “Authorization: Bearer …”.</p>
        <form class="add" @submit.prevent="addToken">
          <TextField v-model="tokenDraft.name" label="New token for" placeholder="Reporting script" />
          <ChoiceField v-model="tokenDraft.role" label="To" :choices="choices" />
          <NumberField v-model="tokenDraft.days" label="Valid for" unit="days" :message="message('days')" />
          <v-btn type="submit" variant="flat" class="low" :disabled="!tokenDraft.name.trim()">Make it</v-btn>
        </form>
      </section>
    </div>
    <AskDialog v-model="isAsking" :title="asking?.title ?? ''" :yes="asking?.yes ?? ''" no="Keep" grave @yes="confirm">
      <p>{{ asking?.text }}</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.part,
.told {
  padding: 12px 16px;
}
.told {
  border-left: 4px solid var(--copper);
  margin-bottom: 14px;
}
.secret {
  font-size: 18px;
  margin: 8px 0;
  overflow-wrap: anywhere;
  user-select: all;
}
.light {
  font-weight: 400;
}
strong {
  font-weight: 600;
}
.out strong {
  color: var(--capped);
}
.role {
  width: 150px;
}
.actions,
.buttons {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
.buttons {
  justify-content: flex-start;
}
.add {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(120px, 1fr));
  gap: 10px;
  align-items: start;
  margin-top: 14px;
  padding-top: 12px;
  border-top: 1px solid var(--line-soft);
}
.low {
  margin-top: 21px;
}
.gap {
  margin-bottom: 12px;
}
</style>
