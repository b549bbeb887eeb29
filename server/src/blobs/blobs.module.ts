import { Module } from '@nestjs/common'
import { BlobsController } from './blobs.controller'
import { BlobsService } from './blobs.service'
import { BlobSweeper } from './sweeper.service'

@Module({
  controllers: [BlobsController],
  providers: [BlobsService, BlobSweeper],
  exports: [BlobsService, BlobSweeper],
})
export class BlobsModule {}
