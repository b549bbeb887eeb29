import { Module } from '@nestjs/common'
import { BlobsModule } from '../blobs/blobs.module'
import { CasesModule } from '../cases/cases.module'
import { TrialsModule } from '../trials/trials.module'
import { PhotosController } from './photos.controller'
import { PhotosRepository } from './photos.repository'
import { PhotosService } from './photos.service'

@Module({
  imports: [CasesModule, TrialsModule, BlobsModule],
  controllers: [PhotosController],
  providers: [PhotosRepository, PhotosService],
})
export class PhotosModule {}
