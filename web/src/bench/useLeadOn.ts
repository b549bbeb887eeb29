import { useQueryClient } from '@tanstack/react-query'
import { useCallback } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { query } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'

/**
 * Where somebody goes who has just entered the first roll or machine: to what is still missing, and with one of each, to the
 * first case of their pair. Later ones lead to their own list.
 */
export function useLeadOn(): (list: '/shelf' | '/machines') => Promise<void> {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { choose } = useCurrentPair()
  return useCallback(
    async (list) => {
      const fresh = { staleTime: 0 }
      const [pairs, rolls, machines] = await Promise.all([
        client.fetchQuery({ ...query.pairs(), ...fresh }),
        client.fetchQuery({ ...query.filaments(), ...fresh }),
        client.fetchQuery({ ...query.machines(), ...fresh }),
      ])
      if (pairs.length) return void navigate(list)
      if (!machines.length) return void navigate('/machines/new')
      if (!rolls.length) return void navigate('/shelf/new')
      if (rolls.length > 1 || machines.length > 1) return void navigate('/')
      const pair = await api.pairs.open(machines[0].id, rolls[0].id)
      client.setQueryData(keys.pairs.one(pair.id), pair)
      await changed.pairs(client)
      choose(pair.id)
      void navigate('/cases/new')
    },
    [client, navigate, choose],
  )
}
