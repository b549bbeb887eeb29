import {
  Body,
  Controller,
  Get,
  Header,
  HttpCode,
  Param,
  ParseIntPipe,
  Post,
  Query,
  Res,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  importRecipe,
  importedRecipe,
  readRecipe,
  recipeFileJsonSchema,
  recipePreview,
} from '@verimend/contract'
import { GRADES, recipeFile, type Exported, type Grade } from '@verimend/core/recipe'
import { recipeGcode, recipeMarkdown, recipeRows, say } from '@verimend/core/words'
import type { Response } from 'express'
import { createZodDto } from '../http/zodDto'
import Papa from 'papaparse'
import { z } from 'zod'
import { Compute } from '../compute/compute.service'
import { notFound } from '../problem/problem'
import { ExportsService } from './exports.service'
import { ImportsService } from './imports.service'

class GradeQuery extends createZodDto(
  z.object({ grade: z.enum(GRADES, { error: 'A grade is fine, standard or coarse.' }).default('standard') }),
) {}
class ReadRecipeDto extends createZodDto(readRecipe) {}
class RecipePreviewDto extends createZodDto(recipePreview) {}
class ImportRecipeDto extends createZodDto(importRecipe) {}
class ImportedRecipeDto extends createZodDto(importedRecipe) {}

/**
 * Cells that a spreadsheet would take for a formula, whatever sign they begin with, a wide one of other scripts included; a number
 * with its sign is none.
 */
export const FORMULA = /^\s*[=@\t\r\n＝＠＋－]|^\s*[+-](?!\d+(?:[.,]\d+)?$)/

type Made = string | Promise<Uint8Array>
const FORMS: Record<string, { type: string; make: (e: Exported, grade: Grade, compute: Compute) => Made }> = {
  json: { type: 'application/json', make: (e) => JSON.stringify(recipeFile(e, say), null, 1) + '\n' },
  csv: {
    type: 'text/csv; charset=utf-8',
    // cells that a spreadsheet would take for a formula are written as text
    make: (e, grade) => '\ufeff' + Papa.unparse(recipeRows(e, grade), { escapeFormulae: FORMULA }) + '\r\n',
  },
  md: { type: 'text/markdown; charset=utf-8', make: recipeMarkdown },
  gcode: { type: 'text/plain; charset=us-ascii', make: recipeGcode },
  pdf: {
    type: 'application/pdf',
    make: (exported, grade, compute) => compute.run('recipeSheet', { exported, grade }),
  },
}
const slug = (text: string) =>
  text
    .normalize('NFKD')
    .replace(/[^\w]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase()
    .slice(0, 60) || 'recipe'

@ApiTags('recipes')
@Controller('api')
export class RecipesController {
  constructor(
    private readonly exports: ExportsService,
    private readonly imports: ImportsService,
    private readonly compute: Compute,
  ) {}

  /** A version as JSON, CSV, Markdown, G-code lines or a one-page PDF. */
  @Get('pairs/:id/versions/:number/recipe.:form')
  async out(
    @Param('id') id: string,
    @Param('number', ParseIntPipe) number: number,
    @Param('form') form: string,
    @Query() { grade }: GradeQuery,
    @Res() response: Response,
  ) {
    if (!Object.hasOwn(FORMS, form)) throw notFound('form of a recipe')
    const e = await this.exports.exported(id, number)
    const body = await FORMS[form].make(e, grade, this.compute)
    response
      .set('Cache-Control', 'no-store')
      .set(
        'Content-Disposition',
        `attachment; filename="${slug(e.filament.name)}-${slug(e.machine.name)}-v${number}${grade === 'standard' ? '' : `-${grade}`}.${form}"`,
      )
      .type(FORMS[form].type)
      .send(typeof body === 'string' ? body : Buffer.from(body))
  }

  /** What taking a recipe file in would change. Changes nothing. */
  @Post('recipes/read')
  @HttpCode(200)
  @ApiOkResponse({ type: RecipePreviewDto })
  read(@Body() body: ReadRecipeDto) {
    return this.imports.preview(body)
  }

  @Post('recipes/import')
  @HttpCode(200)
  @ApiOkResponse({ type: ImportedRecipeDto })
  take(@Body() body: ImportRecipeDto) {
    return this.imports.take(body)
  }

  /** JSON Schema of the recipe file. */
  @Get('schema/recipe-2.json')
  @Header('Content-Type', 'application/schema+json')
  schema() {
    return recipeFileJsonSchema()
  }
}
