import { Body, Controller, Get, HttpCode, Param, Post, Put, Query, Req, StreamableFile } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { MAX_BLOB, beginBlob, blobState, sha256Text, wholeIn } from '@verimend/contract'
import type { Request } from 'express'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { BlobsService } from './blobs.service'

class BeginDto extends createZodDto(beginBlob) {}
class StateDto extends createZodDto(blobState) {}
class PlaceParam extends createZodDto(z.object({ sha256: sha256Text })) {}
class PartQuery extends createZodDto(
  z.object({ from: z.coerce.number().pipe(wholeIn(0, MAX_BLOB, 'The place to go on from', 'bytes')) }),
) {}

@ApiTags('files')
@Controller('api/blobs')
export class BlobsController {
  constructor(private readonly blobs: BlobsService) {}

  /** Begins an upload, or asks how much of it is there. */
  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: StateDto })
  begin(@Body() body: BeginDto) {
    return this.blobs.begin(body.sha256)
  }

  /** The next part, as plain bytes. */
  @Put(':sha256')
  @ApiOkResponse({ type: StateDto })
  append(@Param() { sha256 }: PlaceParam, @Query() { from }: PartQuery, @Req() request: Request) {
    return this.blobs.append(sha256, from, request)
  }

  /** Checks the whole against its fingerprint and keeps it. */
  @Post('finish')
  @HttpCode(200)
  @ApiOkResponse({ type: StateDto })
  finish(@Body() body: BeginDto) {
    return this.blobs.finish(body.sha256, body.bytes)
  }

  @Get(':sha256')
  file(@Param() { sha256 }: PlaceParam) {
    const { stream, bytes } = this.blobs.read(sha256)
    return new StreamableFile(stream, { type: 'application/octet-stream', length: bytes })
  }
}
