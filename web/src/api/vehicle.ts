import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { answered, client, type Probe, type Schemas } from './client'

export type VehicleLook = Schemas['VehicleLook']
export type VehicleOrder = Schemas['VehicleOrder']
export type VehicleSetting = Schemas['VehicleSetting']

/** Milliseconds between two looks at a vehicle that is connected. */
const EVERY_MS = 350
const vehicleKey = (id: number) => ['vehicle', id] as const

const ask = (id: number, body: Partial<VehicleOrder>) =>
  answered<VehicleLook>(
    client.POST('/api/jobs/{number}/vehicle', {
      params: { path: { number: id } },
      body: { wait_s: 0, clear_codes: false, watch: false, ...body },
    }),
  )

/**
 * The simulated vehicle of a job, looked at while the page is open; with its page it stops. probe: what the instrument is laid to;
 * connected: whether the job has such a vehicle at all.
 */
export function useVehicle(id: number, probe: Probe | null, connected: boolean) {
  const queries = useQueryClient()
  const looking = useQuery({
    queryKey: [...vehicleKey(id), JSON.stringify(probe)],
    queryFn: () => ask(id, { probe }),
    enabled: connected,
    placeholderData: (before: VehicleLook | undefined) => before,
    refetchInterval: EVERY_MS,
    gcTime: 0,
    retry: false,
  })
  // an answer to an order is newer than a look that is still on its way
  const order = useMutation({
    scope: { id: `vehicle-${id}` },
    onMutate: () => queries.cancelQueries({ queryKey: vehicleKey(id) }),
    mutationFn: (body: Partial<VehicleOrder>) => ask(id, { probe, ...body }),
    onSuccess: (look, body) => {
      if (!body.watch) queries.setQueryData([...vehicleKey(id), JSON.stringify(probe)], look)
    },
  })
  useEffect(() => {
    if (!connected) return
    const leave = () =>
      void client.DELETE('/api/jobs/{number}/vehicle', { params: { path: { number: id } }, keepalive: true })
    // on the way to another page of the job and back, the vehicle stays as it is: it stops by itself soon after
    window.addEventListener('pagehide', leave)
    return () => window.removeEventListener('pagehide', leave)
  }, [id, connected])
  return {
    look: connected ? looking.data : undefined,
    /** Whether the look is of what the instrument is laid to now. */
    fresh: !looking.isPlaceholderData,
    error: order.error ?? looking.error,
    order,
  }
}
