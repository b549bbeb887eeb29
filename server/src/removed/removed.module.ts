import { Module } from '@nestjs/common'
import { BlobsModule } from '../blobs/blobs.module'
import { RemovedController } from './removed.controller'
import { RemovedService } from './removed.service'

@Module({
  imports: [BlobsModule],
  controllers: [RemovedController],
  providers: [RemovedService],
  exports: [RemovedService],
})
export class RemovedModule {}
