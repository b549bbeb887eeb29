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
  Req,
  StreamableFile,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { caseDetail, trialPhoto, updatePhoto } from '@verimend/contract'
import type { Request } from 'express'
import { createZodDto } from '../http/zodDto'
import { notFound } from '../problem/problem'
import { PhotosService } from './photos.service'

class CaseDto extends createZodDto(caseDetail) {}
class TrialPhotoDto extends createZodDto(trialPhoto) {}
class UpdatePhotoDto extends createZodDto(updatePhoto) {}
const anId = new ParseUUIDPipe({ exceptionFactory: () => notFound('photo') })

@ApiTags('photos')
@Controller('api')
export class PhotosController {
  constructor(private readonly photos: PhotosService) {}

  /** A photo as plain bytes. */
  @Post('cases/:id/photos')
  @ApiOkResponse({ type: CaseDto })
  add(@Param('id') id: string, @Req() request: Request) {
    return this.photos.add(id, request)
  }

  @Get('trials/:id/photos')
  @ApiOkResponse({ type: [TrialPhotoDto] })
  ofTrial(@Param('id') id: string) {
    return this.photos.ofTrial(id)
  }

  /** A photo of one place of a test piece, as plain bytes. */
  @Post('trials/:id/cells/:cell/photos')
  @ApiOkResponse({ type: [TrialPhotoDto] })
  addToTrial(@Param('id') id: string, @Param('cell') cell: string, @Req() request: Request) {
    return this.photos.addToTrial(id, cell, request)
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
