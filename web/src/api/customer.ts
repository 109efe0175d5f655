import { answered, client, type Schemas } from './client'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

export function useCustomer(id: number) {
  return useQuery({
    queryKey: ['customer', id],
    queryFn: () =>
      answered<Schemas['CustomerData']>(
        client.GET('/api/jobs/{number}/customer', { params: { path: { number: id } } }),
      ),
  })
}

export function useKeepCustomer(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas['CustomerChange']) =>
      answered<Schemas['CustomerData']>(
        client.PATCH('/api/jobs/{number}/customer', { params: { path: { number: id } }, body }),
        'writing',
      ),
    onSuccess: (kept) => queries.setQueryData(['customer', id], kept),
  })
}
