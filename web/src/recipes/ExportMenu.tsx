import { Button, Dropdown } from 'antd'
import type { PairDetail } from '@verimend/contract'
import type { Grade } from '@verimend/core/recipe'
import { api } from '../api/client'

const FORMS = [
  ['json', 'Recipe file (JSON), to take in again'],
  ['pdf', 'One page to pin up (PDF)'],
  ['md', 'Markdown'],
  ['csv', 'Table (CSV)'],
  ['gcode', 'Heat-up and settings as G-code'],
] as const

/** Ways out: each is a plain download of the version that is shown. */
export function ExportMenu({ pair, grade }: { pair: PairDetail; grade: Grade }) {
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: FORMS.map(([form, label]) => ({
          key: form,
          label: (
            <a href={api.recipes.href(pair.id, pair.current, form, grade)} download>
              {label}
            </a>
          ),
        })),
      }}
    >
      <Button>Hand it on</Button>
    </Dropdown>
  )
}
