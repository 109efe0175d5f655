import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { answered, client, type Schemas } from './client'
import { attended, spanOf } from '../people/attended'
import { forgetBegun } from '../shared/browserStore'
import { forgetViews } from '../shared/offlineViews'
import { who } from '../people/who'

export type Here = Schemas['Here']
const ACCOUNTS = ['accounts']

/** Who works with this page, and how people come in. */
export function useHere() {
  return useQuery({
    queryKey: ['here'],
    staleTime: 60_000,
    queryFn: () => answered<Here>(client.GET('/api/people/here')),
  })
}

/** Where the server no longer knows who this is, the page asks it who is here. */
export function useAskedAnew(): void {
  const queries = useQueryClient()
  useEffect(
    () => who.subscribe(() => void (who.asked() && queries.invalidateQueries({ queryKey: ['here'] }))),
    [queries],
  )
}

/** Say to the server that someone works with this page, whatever page it is and whether or not it asks for anything. */
export function useAttending(here: Here | undefined): void {
  const queries = useQueryClient()
  const span = spanOf(here?.idle_minutes ?? 240)
  useEffect(() => {
    attended.span = span
    const touched = () => attended.touch(Date.now())
    const told = () => {
      if (attended.due(Date.now())) void queries.refetchQueries({ queryKey: ['here'] })
    }
    const kinds = ['pointerdown', 'keydown'] as const
    for (const kind of kinds) window.addEventListener(kind, touched, { capture: true, passive: true })
    const timer = window.setInterval(told, span / 2)
    return () => {
      for (const kind of kinds) window.removeEventListener(kind, touched, { capture: true })
      window.clearInterval(timer)
    }
  }, [queries, span])
}

function useComing<T>(send: (input: T) => Promise<Here>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: send,
    onSuccess: (here) => {
      queries.setQueryData(['here'], here)
      if (here.me) who.done()
      else queries.removeQueries({ predicate: (query) => query.queryKey[0] !== 'here' }) // nothing of theirs stays on this device
      queries.removeQueries({ queryKey: ACCOUNTS })
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'here' })
    },
  })
}

export const usePick = () =>
  useComing((person: number) => answered<Here>(client.POST('/api/people/pick', { body: { person } }), 'writing'))
export const useNewName = () =>
  useComing((name: string) => answered<Here>(client.POST('/api/people/new', { body: { name } }), 'writing'))
export const useSignIn = () =>
  useComing((body: Schemas['SignIn']) => answered<Here>(client.POST('/api/people/sign-in', { body }), 'writing'))
export const useSignOut = () =>
  useComing(async () => {
    const here = await answered<Here>(client.POST('/api/people/sign-out'), 'writing')
    forgetBegun()
    await forgetViews()
    return here
  })

export type Account = Schemas['Account']

/** Everyone's accounts; for a foreman only. */
export const useAccounts = () =>
  useQuery({ queryKey: ACCOUNTS, queryFn: () => answered<Account[]>(client.GET('/api/people/accounts')), retry: false })

function useAccountWrite<T>(send: (input: T) => Promise<Account[]>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: send,
    onSuccess: (accounts) => {
      queries.setQueryData(ACCOUNTS, accounts)
      void queries.invalidateQueries({ queryKey: ['here'] })
    },
  })
}

export const useAddAccount = () =>
  useAccountWrite((body: Schemas['NewAccount']) =>
    answered<Account[]>(client.POST('/api/people/accounts', { body }), 'writing'),
  )
export const useChangeAccount = () =>
  useAccountWrite(({ id, ...body }: Partial<Schemas['AccountChange']> & { id: number }) =>
    answered<Account[]>(
      client.PATCH('/api/people/accounts/{person}', {
        params: { path: { person: id } },
        body: { role: null, open: null, password: null, ...body },
      }),
      'writing',
    ),
  )
export const useOwnPassword = () =>
  useMutation({
    mutationFn: (body: Schemas['OwnPassword']) =>
      answered<undefined>(client.POST('/api/people/accounts/password', { body }), 'writing'),
  })
