import { screen, waitFor } from '@testing-library/react'
import OnPhone from '../src/access/OnPhone'
import { pick, sent } from './demo'
import { server, show } from './show'

const PHONE = 'POST session/phone'
const codes = () => screen.findByLabelText(/^QR code of /)

test('with several addresses each can be chosen; the code is of this very screen and lets one in', async () => {
  const asked = server({
    [PHONE]: { addresses: ['http://192.0.2.4:4545', 'http://bench.example:4545'], invitation: 'abc' },
  })
  const { user } = show(<OnPhone onClose={() => undefined} />, { at: '/cases?show=open' })
  expect((await codes()).getAttribute('aria-label')).toBe('QR code of http://192.0.2.4:4545/cases?show=open')
  expect(screen.getByText(/lets one phone in without the passphrase/)).toBeTruthy()
  // the word that lets one in stands in the code alone
  expect(document.body.textContent).not.toContain('abc')
  await pick('Address', /bench\.example/)
  expect((await codes()).getAttribute('aria-label')).toBe(
    'QR code of http://bench.example:4545/cases?show=open',
  )
  await user.click(screen.getByRole('button', { name: 'New code' }))
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
})

test('what is not shared says how it is; without a passphrase no invitation is spoken of', async () => {
  server({ [PHONE]: { addresses: [], invitation: null } })
  const { unmount } = show(<OnPhone onClose={() => undefined} />)
  expect(await screen.findByText(/npm start -- --share/)).toBeTruthy()
  unmount()
  server({ [PHONE]: { addresses: ['http://192.0.2.4:4545'], invitation: null } })
  show(<OnPhone onClose={() => undefined} />, { at: '/trials' })
  expect(await screen.findByText('The phone has to be in the same network.')).toBeTruthy()
  expect(screen.queryByLabelText('Address')).toBeNull()
})
