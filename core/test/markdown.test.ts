import fc from 'fast-check'
import { marked } from 'marked'
import { plainText } from '../src/words/documents/markdown'
import { tries } from './lib/property'

/** Pieces of which live links, pictures and markup are made. */
const piece = fc.constantFrom(
  '[',
  ']',
  '(',
  ')',
  '!',
  '<',
  '>',
  'a',
  'http://',
  'https://x.example/',
  'www.x.example',
  'me@x.example',
  'javascript:alert(1)',
  '<img src=x>',
  '![p](http://x.example/p.png)',
  '[l](//x.example)',
  '<b>',
  '&lt;',
  '`',
  '**',
  '__',
  '~~',
  '|',
  '\\',
  '\n',
  '\r\n',
  ' ',
  '#',
  '- ',
  'ftp://x.example',
  'mailto:me@x.example',
  '[l]: http://x.example',
  'WWW.X.EXAMPLE',
)

test('whatever somebody typed, as Markdown it is text: no link, no picture, no markup, no cell of its own', () => {
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 12 }), (pieces) => {
      const typed = pieces.join('')
      const row = `| a | b |\n| --- | --- |\n| ${plainText(typed)} | end |\n`
      const html = marked.parse(row, { async: false, gfm: true })
      expect(html).not.toMatch(/<(a|img|b|script|strong|em|del|code|iframe)\b/i)
      // the row has its two cells
      expect(html.match(/<td/g)).toHaveLength(2)
      expect(html).toContain('<td>end</td>')
    }),
    tries(400),
  )
})

test('and reads as it was typed', () => {
  const read = (text: string) =>
    marked
      .parseInline(plainText(text), { async: false, gfm: true })
      .replace(/&lt;/g, '<')
      .replace(/&gt;/g, '>')
      .replace(/&#39;/g, "'")
      .replace(/&quot;/g, '"')
      .replace(/&amp;/g, '&')
  for (const text of [
    '0.2 mm [first] *layer*, 5 < 6',
    'see http://x.example/a_b',
    'me@x.example | you',
    'a\\b `c` ~d~ !',
  ])
    expect(read(text)).toBe(text)
})
