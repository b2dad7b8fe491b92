import { computed, ref, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, Problem, sentence, type Own, type View } from '@/api/client'
import { useSession } from '@/people/session'
import { useViews } from './store'
import type { useQuestion } from './useQuestion'
import { forgetUnsaved } from './useUnsaved'

/**
 * Keeping what a page asks as a view, changing, sharing, pinning and deleting it.
 *
 * @param q the question of the page
 * @param said what is announced once something is done
 * @param mishap what is said when it could not be done
 */
export function useKeeping(q: ReturnType<typeof useQuestion>, said: Ref<string>, mishap: Ref<string>) {
  const { register, view, where, order, columns, shape, chosenZone } = q
  const session = useSession()
  const views = useViews()
  const router = useRouter()

  const keepOpen = ref(false)
  const keepAs = ref<'new' | 'copy' | 'rename'>('new')
  const shareOpen = ref(false)
  const historyOpen = ref(false)
  const accessOpen = ref(false)
  const deleteOpen = ref(false)
  const besideOpen = ref(false)
  const reviewOpen = ref(false)
  const conflictOpen = ref(false)
  const theirs = ref<View>()
  const keepRefusal = ref<unknown>()
  const busy = ref(false)

  const question = () => ({
    register: register.value!.key,
    statement: where.value,
    columns: columns.value,
    order: order.value,
    zone: chosenZone.value,
    shape: shape.value as View['shape'],
  })

  function startKeeping(as: 'new' | 'copy' | 'rename') {
    keepAs.value = as
    keepRefusal.value = undefined
    keepOpen.value = true
  }

  async function keep(name: string, purpose: string, labels: string[]) {
    busy.value = true
    keepRefusal.value = undefined
    const left = q.leaving()
    try {
      if (keepAs.value === 'rename') {
        await write({ name, purpose, labels }, view.value!.version)
        keepOpen.value = false
        return
      }
      const kept = (await data(
        api.POST('/api/views', {
          body: { name, purpose, labels, ...question() },
        }),
      )) as View
      views.put(kept)
      // What was changed on the view that this comes from is saved now.
      if (view.value && q.changed.value) forgetUnsaved(view.value.id)
      keepOpen.value = false
      reviewOpen.value = false
      said.value = `Saved as “${kept.name}”.`
      await q.settle(kept, { answers: q.answers.value }, left)
    } catch (e) {
      keepRefusal.value = e
    } finally {
      busy.value = false
    }
  }

  /** Keeps the changes of a view; where others have it too, they are shown first what that means. */
  function keepReviewed() {
    if (view.value!.shares.length) reviewOpen.value = true
    else void keepChanges()
  }

  async function keepChanges(version = view.value!.version) {
    busy.value = true
    mishap.value = ''
    try {
      await write(question(), version)
      conflictOpen.value = false
      reviewOpen.value = false
      said.value = 'Changes saved.'
    } catch (e) {
      reviewOpen.value = false
      if (e instanceof Problem && e.code === 'changed-meanwhile') {
        theirs.value = e.details.current as View
        conflictOpen.value = true
      } else mishap.value = sentence(e)
    } finally {
      busy.value = false
    }
  }

  async function write(parts: Record<string, unknown>, version: number) {
    const left = q.leaving()
    const fresh = (await data(
      api.PATCH('/api/views/{id}', {
        params: { path: { id: view.value!.id } },
        body: { version, ...parts },
      }),
    )) as View
    views.put(fresh)
    if (!('statement' in parts)) {
      if (!left()) view.value = fresh
      return
    }
    // What was a refinement of one's own is the view now.
    const own = q.own.value?.refined && !left() ? await unrefine() : undefined
    await q.settle(fresh, own, left)
  }

  const unrefine = async () =>
    (await data(api.DELETE('/api/views/{id}/own', { params: { path: { id: view.value!.id } } }))) as Own

  /** Keeps the changes for the reader alone, on top of what the view's owner keeps. */
  async function keepForMe() {
    busy.value = true
    mishap.value = ''
    const left = q.leaving()
    const kept = view.value!
    try {
      const own = (await data(
        api.PUT('/api/views/{id}/own', { params: { path: { id: view.value!.id } }, body: q.mine.value }),
      )) as Own
      said.value = 'Saved for you. Nobody else sees it, and it is carried along when the view changes.'
      await q.settle(kept, own, left)
      void views.countSome([kept.id])
    } catch (e) {
      mishap.value = sentence(e)
    } finally {
      busy.value = false
    }
  }

  /** Drops the reader's own refinement. */
  async function dropMine() {
    const left = q.leaving()
    const kept = view.value!
    try {
      await q.settle(kept, await unrefine(), left)
      said.value = 'Your own refinement is discarded.'
      void views.countSome([kept.id])
    } catch (e) {
      mishap.value = sentence(e)
    }
  }

  /** Reads the view anew, where somebody changed it; one's own changes stay, and are held against it. */
  async function takeNewer() {
    const left = q.leaving()
    try {
      const fresh = (await data(
        api.GET('/api/views/{id}', { params: { path: { id: view.value!.id } } }),
      )) as View
      views.put(fresh)
      if (left()) return
      if (q.changed.value) {
        theirs.value = fresh
        conflictOpen.value = true
      } else await q.settle(fresh)
    } catch (e) {
      mishap.value = sentence(e)
    }
  }

  /** A version that was put back. */
  async function putBack(fresh: View) {
    views.put(fresh)
    historyOpen.value = false
    said.value = 'The earlier version is put back.'
    await q.settle(fresh)
  }

  async function openTheirs() {
    conflictOpen.value = false
    await q.settle(theirs.value!)
  }

  async function remove() {
    busy.value = true
    const left = q.leaving()
    try {
      const gone = view.value!
      await api.DELETE('/api/views/{id}', {
        params: { path: { id: gone.id }, query: { version: gone.version } },
      })
      views.remove(gone.id)
      deleteOpen.value = false
      if (!left()) await router.push('/views')
    } catch (e) {
      deleteOpen.value = false
      mishap.value = sentence(e)
    } finally {
      busy.value = false
    }
  }

  function shared(fresh: View) {
    view.value = fresh
    views.put(fresh)
    said.value = 'Sharing is set.'
  }

  async function pin() {
    try {
      await views.togglePin(view.value!.id)
      said.value = views.isPinned(view.value!.id) ? 'Pinned to your list.' : 'No longer pinned.'
    } catch (e) {
      mishap.value = sentence(e)
    }
  }

  const manages = computed(() => session.mayWrite && view.value?.may === 'MANAGE')

  return {
    keepOpen,
    keepAs,
    shareOpen,
    historyOpen,
    accessOpen,
    deleteOpen,
    conflictOpen,
    theirs,
    keepRefusal,
    reviewOpen,
    busy,
    manages,
    startKeeping,
    keep,
    keepReviewed,
    keepChanges,
    keepForMe,
    dropMine,
    takeNewer,
    putBack,
    openTheirs,
    remove,
    shared,
    pin,
    besideOpen,
  }
}
