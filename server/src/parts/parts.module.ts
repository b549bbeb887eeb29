import { Module } from '@nestjs/common'
import { BlobsModule } from '../blobs/blobs.module'
import { PairsModule } from '../pairs/pairs.module'
import { PartsController } from './parts.controller'
import { PartsRepository } from './parts.repository'
import { PartsService } from './parts.service'

@Module({
  imports: [PairsModule, BlobsModule],
  controllers: [PartsController],
  providers: [PartsRepository, PartsService],
  exports: [PartsRepository, PartsService],
})
export class PartsModule {}
