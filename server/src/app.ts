import 'reflect-metadata'
import { Global, Module, type DynamicModule, type INestApplication } from '@nestjs/common'
import { APP_FILTER, APP_PIPE, NestFactory } from '@nestjs/core'
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger'
import compression from 'compression'
import express from 'express'
import { LoggerModule, Logger } from 'nestjs-pino'
import { cleanupOpenApiDoc, createZodValidationPipe } from 'nestjs-zod'
import type { ZodError } from 'zod'
import { readFileSync } from 'node:fs'
import type { Server } from 'node:net'
import { AccessModule } from './access/access.module'
import { AccessService } from './access/access.service'
import { BackupsModule } from './backup/backups.module'
import { BackupsService } from './backup/backups.service'
import { BlobsModule } from './blobs/blobs.module'
import { CasesModule } from './cases/cases.module'
import { SumsService } from './cases/sums.service'
import { ComputeModule } from './compute/compute.module'
import { CONFIG, type Config } from './config'
import { Database, DatabaseModule } from './database/database.module'
import { seedDemo } from './demo/seed'
import { DiagnosisModule } from './diagnosis/diagnosis.module'
import { FilamentsModule } from './filaments/filaments.module'
import { HealthModule } from './health/health.module'
import { bodies } from './http/bodies'
import { limitCrowds } from './http/crowd'
import { guard, isForThoseWhoAreIn } from './http/guard'
import { logTo } from './http/logTo'
import { headers, noStore, serveWeb } from './http/web'
import { MachinesModule } from './machines/machines.module'
import { PhotosModule } from './photos/photos.module'
import { PairsModule } from './pairs/pairs.module'
import { PairsRepository } from './pairs/pairs.repository'
import { VersionsRepository } from './pairs/versions.repository'
import { RecipesModule } from './recipes/recipes.module'
import { PartsModule } from './parts/parts.module'
import { MeasurementsModule } from './measurements/measurements.module'
import { PrintsModule } from './prints/prints.module'
import { RemovedModule } from './removed/removed.module'
import { RemovedService } from './removed/removed.service'
import { TrialsModule } from './trials/trials.module'
import { badInput } from './problem/problem'
import { ProblemFilter } from './problem/problem.filter'

const ZodPipe = createZodValidationPipe({
  createValidationException: (error) =>
    badInput(
      (error as ZodError).issues.slice(0, 50).map((i) => ({ path: i.path.join('.'), message: i.message })),
    ),
})

@Global()
@Module({})
class ConfigModule {
  static of(config: Config): DynamicModule {
    return { module: ConfigModule, providers: [{ provide: CONFIG, useValue: config }], exports: [CONFIG] }
  }
}

/** The standard output's descriptor. */
const STDOUT = 1

@Module({})
class AppModule {
  static of(config: Config): DynamicModule {
    return {
      module: AppModule,
      imports: [
        ConfigModule.of(config),
        LoggerModule.forRoot({
          pinoHttp: {
            stream: logTo(STDOUT),
            level: config.log,
            autoLogging: { ignore: (request) => !request.url?.startsWith('/api') },
            redact: ['req.headers.authorization', 'req.headers.cookie'],
            serializers: {
              req: (r: { id: unknown; method: string; url: string }) => ({
                id: r.id,
                method: r.method,
                url: r.url,
              }),
              res: (r: { statusCode: number }) => ({ status: r.statusCode }),
            },
          },
        }),
        DatabaseModule,
        AccessModule,
        ComputeModule,
        MachinesModule,
        FilamentsModule,
        PairsModule,
        RecipesModule,
        CasesModule,
        PhotosModule,
        BlobsModule,
        TrialsModule,
        MeasurementsModule,
        PartsModule,
        PrintsModule,
        DiagnosisModule,
        HealthModule,
        BackupsModule,
        RemovedModule,
      ],
      providers: [
        { provide: APP_PIPE, useClass: ZodPipe },
        { provide: APP_FILTER, useClass: ProblemFilter },
      ],
    }
  }
}

/** Builds the application: tables up to date, demo in an empty database, guards, pages. Does not listen yet. */
export async function createApp(config: Config): Promise<INestApplication> {
  const app = await NestFactory.create(AppModule.of(config), {
    bodyParser: false,
    bufferLogs: true,
    httpsOptions: config.tls && {
      cert: readFileSync(config.tls.cert),
      key: readFileSync(config.tls.key),
    },
  })
  app.useLogger(app.get(Logger))
  app.enableShutdownHooks()
  const server = app.getHttpAdapter().getInstance() as express.Express
  server.disable('x-powered-by')
  server.set('etag', false)
  limitCrowds(app.getHttpServer() as Server)
  app.use(headers())
  app.use(noStore)
  const check = guard(config, app.get(AccessService))
  const filter = new ProblemFilter()
  app.use(
    (request: express.Request, response: express.Response, next: express.NextFunction) =>
      void check(request, response, (error?: unknown) =>
        error
          ? filter.catch(error, { switchToHttp: () => ({ getResponse: () => response }) } as never)
          : next(),
      ),
  )
  app.use(compression())
  app.use(bodies(isForThoseWhoAreIn))
  const database = app.get(Database)
  await database.migrate()
  await app.get(SumsService).fill()
  await app.get(VersionsRepository).fillTested(app.get(PairsRepository))
  if (config.demo) await database.alone(() => seedDemo(app))
  // made when it is first asked for: a start, above all one after a crash, need not wait for it
  const document = () =>
    cleanupOpenApiDoc(
      SwaggerModule.createDocument(
        app,
        new DocumentBuilder()
          .setTitle('Verimend')
          .setDescription(
            'Machines, rolls, pairs with their recipes, and cases. Errors are problem documents (RFC 9457).',
          )
          .setVersion('1')
          .build(),
      ),
    )
  SwaggerModule.setup('api/docs', app, document, {
    customSiteTitle: 'Verimend API',
    jsonDocumentUrl: 'api/openapi.json',
  })
  if (config.backups) {
    app.get(BackupsService).begin()
    app.get(RemovedService).begin()
  }
  if (config.web) serveWeb(app, config.web)
  return app
}
