import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, client, type Schemas } from './client'
import { who } from '../model/who'

export type Here = Schemas['Here']

/** Who works with this page, and how people come in. */
export function useHere() {
  return useQuery({ queryKey: ['here'], staleTime: 60_000, queryFn: () => answered<Here>(client.GET('/api/people/here')) })
}

function useComing<T>(send: (input: T) => Promise<Here>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: send,
    onSuccess: (here) => {
      queries.setQueryData(['here'], here)
      if (here.me) who.done()
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'here' })
    },
  })
}

export const usePick = () => useComing((person: number) => answered<Here>(client.POST('/api/people/pick', { body: { person } }), 'writing'))
export const useNewName = () => useComing((name: string) => answered<Here>(client.POST('/api/people/new', { body: { name } }), 'writing'))
export const useSignIn = () => useComing((body: Schemas['SignIn']) => answered<Here>(client.POST('/api/people/sign-in', { body }), 'writing'))
export const useSignOut = () => useComing(() => answered<Here>(client.POST('/api/people/sign-out'), 'writing'))
