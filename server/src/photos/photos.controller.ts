import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Post,
  Put,
  Query,
  Req,
  StreamableFile,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { caseDetail, trialPhoto, updatePhoto } from '@verimend/contract'
import type { Request } from 'express'
import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { Gone } from '../http/gone'
import { createZodDto } from '../http/zodDto'
import { notFound } from '../problem/problem'
import { PhotosService } from './photos.service'

class CaseDto extends createZodDto(caseDetail) {}
class TrialPhotoDto extends createZodDto(trialPhoto) {}
class NewPhotoQuery extends createZodDto(z.object({ id: z.uuid().optional() })) {}
class UpdatePhotoDto extends createZodDto(updatePhoto) {}
const anId = new ParseUUIDPipe({ exceptionFactory: () => notFound('photo') })

@ApiTags('photos')
@Controller('api')
export class PhotosController {
  constructor(private readonly photos: PhotosService) {}

  /** A photo as plain bytes; with an id that its sender has given it, it is taken once however often it is sent. */
  @Post('cases/:id/photos')
  @ApiOkResponse({ type: CaseDto })
  add(
    @Param('id') id: string,
    @Query() { id: photo = randomUUID() }: NewPhotoQuery,
    @Req() body: Request,
    @Gone() gone: AbortSignal,
  ) {
    return this.photos.add(id, { id: photo, body, gone })
  }

  @Get('trials/:id/photos')
  @ApiOkResponse({ type: [TrialPhotoDto] })
  ofTrial(@Param('id') id: string) {
    return this.photos.ofTrial(id)
  }

  /** A photo of one place of a test piece, as plain bytes. */
  @Post('trials/:id/cells/:cell/photos')
  @ApiOkResponse({ type: [TrialPhotoDto] })
  addToTrial(
    @Param('id') id: string,
    @Param('cell') cell: string,
    @Query() { id: photo = randomUUID() }: NewPhotoQuery,
    @Req() body: Request,
    @Gone() gone: AbortSignal,
  ) {
    return this.photos.addToTrial(id, cell, { id: photo, body, gone })
  }

  @Delete('trials/:id/photos/:photo')
  @ApiOkResponse({ type: [TrialPhotoDto] })
  removeOfTrial(@Param('id') id: string, @Param('photo', anId) photo: string) {
    return this.photos.softDeleteOfTrial(id, photo)
  }

  @Post('trials/:id/photos/:photo/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: [TrialPhotoDto] })
  restoreOfTrial(@Param('id') id: string, @Param('photo', anId) photo: string) {
    return this.photos.restoreOfTrial(id, photo)
  }

  @Put('photos/:id')
  @ApiOkResponse({ type: CaseDto })
  update(@Param('id', anId) id: string, @Body() body: UpdatePhotoDto) {
    return this.photos.update(id, body)
  }

  @Delete('photos/:id')
  @ApiOkResponse({ type: CaseDto })
  remove(@Param('id', anId) id: string) {
    return this.photos.softDelete(id)
  }

  @Post('photos/:id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: CaseDto })
  restore(@Param('id', anId) id: string) {
    return this.photos.restore(id)
  }

  @Get('photos/:id.jpg')
  @Header('Cache-Control', 'private, max-age=31536000, immutable')
  picture(@Param('id', anId) id: string) {
    return this.send(id, false)
  }

  @Get('photos/:id/small.jpg')
  @Header('Cache-Control', 'private, max-age=31536000, immutable')
  small(@Param('id', anId) id: string) {
    return this.send(id, true)
  }

  private async send(id: string, small: boolean) {
    const { stream, bytes } = await this.photos.read(id, small)
    return new StreamableFile(stream, { type: 'image/jpeg', length: bytes })
  }
}
