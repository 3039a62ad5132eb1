import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { z } from 'zod'
import { useDraft } from '~/composables/useDraft'
import { useSaving } from '~/composables/useSaving'
import { Refused } from '~/composables/useApi'
import { useNotices } from '~/stores/notices'
import { fault } from '#core/faults/catalogue'
import { answerWith, leave, startAnew, within } from './support'

beforeEach(startAnew)
afterEach(leave)

const contract = z.object({ name: z.string().min(1, 'A lamp needs a name.'), watts: z.int().max(60, 'At most 60 W.') })
const lamp = { name: 'Quay', watts: 40 }

describe('a draft', () => {
  it('says what is wrong once a field was left, or after a try to save', () => {
    const form = within(() => useDraft(lamp, contract))
    form.draft.value.name = ''
    form.draft.value.watts = 100
    expect(form.isValid.value).toBe(false)
    expect([form.messageFor('name'), form.messageFor('watts')]).toEqual(['', ''])
    form.touch('name')
    expect([form.messageFor('name'), form.messageFor('watts')]).toEqual(['A lamp needs a name.', ''])
    form.triedToSave.value = true
    expect(form.messageFor('watts')).toBe('At most 60 W.')
  })

  it('that begins with what was brought along would lose that', () => {
    const form = within(() => useDraft({ ...lamp, name: 'Brought' }, contract, () => [], lamp))
    expect(form.isDirty.value).toBe(true)
    form.reset(lamp)
    expect(form.isDirty.value).toBe(false)
  })

  it('shows what the server said until something is typed', async () => {
    const form = within(() => useDraft(lamp, contract))
    form.fromServer.value = [{ path: 'name', message: 'There is a lamp “Quay” already.' }]
    expect(form.messageFor('name')).toBe('There is a lamp “Quay” already.')
    form.draft.value.name = 'Quay 2'
    await nextTick()
    expect(form.messageFor('name')).toBe('')
    expect(form.isValid.value).toBe(true)
  })

  it('knows whether anything would be lost, and leaves what it began with alone', () => {
    const form = within(() => useDraft(lamp, contract))
    expect(form.isDirty.value).toBe(false)
    form.draft.value.watts = 20
    expect([form.isDirty.value, lamp.watts]).toEqual([true, 40])
    form.reset({ name: 'Quay', watts: 20 })
    expect(form.isDirty.value).toBe(false)
  })
})

describe('saving', () => {
  type Lamp = typeof lamp
  const saved = (revision: number, more: Partial<Lamp> = {}) => ({ id: 3, revision, ...lamp, ...more })
  const sheet = (send: (draft: Lamp, revision: number) => Promise<ReturnType<typeof saved>>) =>
    within(() => {
      const form = useDraft(lamp, contract)
      const after = vi.fn()
      const draftOf = ({ name, watts }: Lamp) => ({ name, watts })
      return { form, after, ...useSaving({ form, opened: saved(5), send, draftOf, tell: () => 'Lamp saved.', after }) }
    })

  it('sends nothing while a field is wrong', async () => {
    const send = vi.fn()
    const { form, save } = sheet(send)
    form.draft.value.name = ''
    await save()
    expect(send).not.toHaveBeenCalled()
    expect(form.messageFor('name')).toBe('A lamp needs a name.')
  })

  it('names the revision that it started from, tells what was done, and what became of it', async () => {
    answerWith(() => ({ revision: 6, state: 'in force', node: 'quay-1', waits: [], things: [] }))
    const send = vi.fn().mockResolvedValue(saved(6, { watts: 20 }))
    const { form, save, after } = sheet(send)
    form.draft.value.watts = 20
    await save()
    expect(send).toHaveBeenCalledWith({ name: 'Quay', watts: 20 }, 5)
    expect(after).toHaveBeenCalledOnce()
    expect(form.isDirty.value).toBe(false)
    await vi.waitFor(() => expect(useNotices().text).toBe('Lamp saved. In force on quay-1.'))
  })

  it('puts what the server refuses at its fields, also that of a list of one', async () => {
    const fields = [{ path: 'tags.0.name', message: 'It is taken.' }]
    const { form, save, refused } = sheet(() => Promise.reject(new Refused(fault('entry.taken', { thing: 'tag', name: 'Quay' }), fields)))
    await save()
    expect(refused.value?.why.code).toBe('entry.taken')
    expect(form.messageFor('name')).toBe('It is taken.')
  })

  it('shows what somebody else saved meanwhile, and goes over it only when told to', async () => {
    answerWith(() => ({ revision: 9, state: 'not yet', node: null, things: [] }))
    const edited = fault('entry.edited', { thing: 'lamp', name: 'Quay', who: 'Pilot', at: 'just now' } as never)
    const send = vi
      .fn()
      .mockRejectedValueOnce(new Refused(edited, [], { current: saved(8, { watts: 10 }) }))
      .mockResolvedValue(saved(9))
    const { save, theirs, saveOverTheirs } = sheet(send)
    await save()
    expect(theirs.value).toMatchObject({ revision: 8, watts: 10 })
    await saveOverTheirs()
    expect(send).toHaveBeenLastCalledWith(lamp, 8)
    expect(theirs.value).toBeNull()
  })
})
