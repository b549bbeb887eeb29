import type { QueryInterface } from 'sequelize'
import type { RunnableMigration } from 'umzug'

const step = (name: string, statements: string[]): RunnableMigration<QueryInterface> => ({
  name,
  // MariaDB commits every change of a table by itself: each statement can be run again after a crash.
  up: async ({ context }) => {
    for (const sql of statements) await context.sequelize.query(sql)
  },
})
const times = 'createdAt DATETIME(3) NOT NULL, updatedAt DATETIME(3) NOT NULL'
const tail = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci'
const shelved = (table: string) =>
  `CREATE TABLE IF NOT EXISTS ${table} (id CHAR(36) NOT NULL PRIMARY KEY, rev INT NOT NULL, body LONGTEXT NOT NULL, removedAt DATETIME(3) NULL, ${times}) ${tail}`

/** All changes of the tables, oldest first. Never edited once landed, only added to. */
export const MIGRATIONS: RunnableMigration<QueryInterface>[] = [
  step('0001-first-tables', [
    `CREATE TABLE IF NOT EXISTS marks (name VARCHAR(60) NOT NULL PRIMARY KEY, value VARCHAR(200) NOT NULL, ${times}) ${tail}`,
    shelved('machines'),
    shelved('filaments'),
    `CREATE TABLE IF NOT EXISTS pairs (id CHAR(36) NOT NULL PRIMARY KEY, machineId CHAR(36) NOT NULL, filamentId CHAR(36) NOT NULL,
      nozzle DECIMAL(5,3) NOT NULL, current INT NOT NULL, ${times},
      UNIQUE KEY pair_once (machineId, filamentId, nozzle),
      FOREIGN KEY (machineId) REFERENCES machines(id), FOREIGN KEY (filamentId) REFERENCES filaments(id)) ${tail}`,
    `CREATE TABLE IF NOT EXISTS recipe_versions (id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY, pairId CHAR(36) NOT NULL, number INT NOT NULL,
      parent INT NULL, settings LONGTEXT NOT NULL, changes LONGTEXT NOT NULL, reason VARCHAR(500) NOT NULL, caseId CHAR(36) NULL, ${times},
      UNIQUE KEY version_once (pairId, number), FOREIGN KEY (pairId) REFERENCES pairs(id)) ${tail}`,
    `CREATE TABLE IF NOT EXISTS cases (id CHAR(36) NOT NULL PRIMARY KEY, rev INT NOT NULL, pairId CHAR(36) NOT NULL, part VARCHAR(200) NOT NULL,
      note TEXT NOT NULL, status VARCHAR(10) NOT NULL, signs LONGTEXT NOT NULL, startVersion INT NOT NULL, keptVersion INT NULL,
      learnt TEXT NULL, removedAt DATETIME(3) NULL, ${times}, KEY by_pair (pairId), FOREIGN KEY (pairId) REFERENCES pairs(id)) ${tail}`,
    `CREATE TABLE IF NOT EXISTS attempts (id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY, caseId CHAR(36) NOT NULL, number INT NOT NULL,
      mends LONGTEXT NOT NULL, signsBefore LONGTEXT NOT NULL, fromVersion INT NOT NULL, toVersion INT NOT NULL, results LONGTEXT NULL,
      newSigns LONGTEXT NOT NULL, note TEXT NOT NULL, recordedAt DATETIME(3) NULL, ${times},
      UNIQUE KEY attempt_once (caseId, number), FOREIGN KEY (caseId) REFERENCES cases(id)) ${tail}`,
    `CREATE TABLE IF NOT EXISTS case_files (id CHAR(36) NOT NULL PRIMARY KEY, caseId CHAR(36) NOT NULL, name VARCHAR(255) NOT NULL,
      bytes BIGINT NOT NULL, sha256 CHAR(64) NOT NULL, afterAttempt INT NOT NULL, reading LONGTEXT NOT NULL, ${times},
      KEY by_case (caseId), FOREIGN KEY (caseId) REFERENCES cases(id)) ${tail}`,
  ]),
  step('0002-variants-and-meant', [
    `ALTER TABLE recipe_versions ADD COLUMN IF NOT EXISTS variants LONGTEXT NULL`,
    `ALTER TABLE pairs ADD COLUMN IF NOT EXISTS meant LONGTEXT NULL`,
  ]),
  step('0003-marks', [`ALTER TABLE cases ADD COLUMN IF NOT EXISTS marks LONGTEXT NULL`]),
  step('0004-checks-and-learning', [
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS checks LONGTEXT NULL`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS cannot LONGTEXT NULL`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS learns BOOLEAN NOT NULL DEFAULT TRUE`,
  ]),
  step('0005-photos-and-places', [
    `CREATE TABLE IF NOT EXISTS case_photos (id CHAR(36) NOT NULL PRIMARY KEY, caseId CHAR(36) NOT NULL, afterAttempt INT NOT NULL,
      sha256 CHAR(64) NOT NULL, thumb CHAR(64) NOT NULL, width INT NOT NULL, height INT NOT NULL, note VARCHAR(500) NOT NULL,
      marks LONGTEXT NOT NULL, scale DOUBLE NULL, removedAt DATETIME(3) NULL, ${times},
      KEY by_case (caseId), FOREIGN KEY (caseId) REFERENCES cases(id)) ${tail}`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS place VARCHAR(20) NULL`,
  ]),
  step('0006-trials', [
    `ALTER TABLE case_photos MODIFY caseId CHAR(36) NULL`,
    `ALTER TABLE case_photos ADD COLUMN IF NOT EXISTS trialId CHAR(36) NULL`,
    `ALTER TABLE case_photos ADD COLUMN IF NOT EXISTS cell VARCHAR(40) NULL`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS designs LONGTEXT NULL`,
    `CREATE TABLE IF NOT EXISTS trials (id CHAR(36) NOT NULL PRIMARY KEY, rev INT NOT NULL, pairId CHAR(36) NOT NULL, caseId CHAR(36) NULL,
      number INT NOT NULL, plan LONGTEXT NOT NULL, cells LONGTEXT NOT NULL, view VARCHAR(10) NOT NULL, version INT NOT NULL,
      readings LONGTEXT NOT NULL, resolution DOUBLE NOT NULL, note TEXT NOT NULL, seconds INT NOT NULL, grams DOUBLE NOT NULL,
      adoptedVersion INT NULL, removedAt DATETIME(3) NULL, ${times},
      UNIQUE KEY trial_once (pairId, number), FOREIGN KEY (pairId) REFERENCES pairs(id)) ${tail}`,
  ]),
  step('0007-schema-numbers-and-sums', [
    ...['machines', 'filaments', 'recipe_versions', 'cases', 'case_files', 'trials'].map(
      (table) => `ALTER TABLE ${table} ADD COLUMN IF NOT EXISTS schemaVersion INT NOT NULL DEFAULT 1`,
    ),
    // reasons are codes with values by now, and longer than a line
    `ALTER TABLE recipe_versions MODIFY reason TEXT NOT NULL`,
    `ALTER TABLE pairs CHANGE COLUMN IF EXISTS meant acknowledged LONGTEXT NULL`,
    // what lists show of a reading is kept beside it, so that they need not read it
    `ALTER TABLE case_files ADD COLUMN IF NOT EXISTS grams DOUBLE NOT NULL DEFAULT 0`,
    `ALTER TABLE case_files ADD COLUMN IF NOT EXISTS seconds DOUBLE NOT NULL DEFAULT 0`,
    `UPDATE case_files SET grams = COALESCE(JSON_VALUE(reading, '$.filament.mass'), 0), seconds = COALESCE(JSON_VALUE(reading, '$.seconds'), 0) WHERE seconds = 0`,
    `CREATE INDEX IF NOT EXISTS by_change ON cases (removedAt, updatedAt)`,
    `CREATE INDEX IF NOT EXISTS by_status ON cases (status, removedAt, updatedAt)`,
  ]),
  step('0008-longest-side', [`ALTER TABLE cases ADD COLUMN IF NOT EXISTS longest DOUBLE NULL`]),
  step('0009-measurements', [
    `CREATE TABLE IF NOT EXISTS measurements (id CHAR(36) NOT NULL PRIMARY KEY, rev INT NOT NULL, schemaVersion INT NOT NULL DEFAULT 1,
      machineId CHAR(36) NOT NULL, pairId CHAR(36) NULL, caseId CHAR(36) NULL, version INT NULL, inUse LONGTEXT NULL, measured LONGTEXT NOT NULL,
      note TEXT NOT NULL, acted LONGTEXT NULL, removedAt DATETIME(3) NULL, ${times},
      KEY by_machine (machineId, createdAt), KEY by_pair (pairId, createdAt), FOREIGN KEY (machineId) REFERENCES machines(id)) ${tail}`,
  ]),
  step('0010-parts', [
    `CREATE TABLE IF NOT EXISTS parts (id CHAR(36) NOT NULL PRIMARY KEY, rev INT NOT NULL, schemaVersion INT NOT NULL DEFAULT 1,
      name VARCHAR(120) NOT NULL, note TEXT NOT NULL, versions LONGTEXT NOT NULL, layout LONGTEXT NOT NULL, own LONGTEXT NOT NULL,
      plans LONGTEXT NOT NULL, removedAt DATETIME(3) NULL, ${times}, KEY by_change (removedAt, updatedAt)) ${tail}`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS partId CHAR(36) NULL`,
    `CREATE INDEX IF NOT EXISTS by_part ON cases (partId)`,
  ]),
  step('0011-prints', [
    `CREATE TABLE IF NOT EXISTS machine_links (machineId CHAR(36) NOT NULL PRIMARY KEY, pace VARCHAR(20) NOT NULL, practice LONGTEXT NULL,
      ${times}, FOREIGN KEY (machineId) REFERENCES machines(id)) ${tail}`,
    `CREATE TABLE IF NOT EXISTS prints (id CHAR(36) NOT NULL PRIMARY KEY, machineId CHAR(36) NOT NULL, pairId CHAR(36) NOT NULL,
      kind VARCHAR(10) NOT NULL, name VARCHAR(200) NOT NULL, trialId CHAR(36) NULL, caseId CHAR(36) NULL, afterAttempt INT NULL,
      version INT NOT NULL, link VARCHAR(10) NOT NULL, sha256 CHAR(64) NOT NULL, state VARCHAR(12) NOT NULL, reason VARCHAR(400) NULL,
      told LONGTEXT NOT NULL, grams DOUBLE NOT NULL DEFAULT 0, enteredAt DATETIME(3) NULL, endedAt DATETIME(3) NULL, ${times},
      KEY by_machine (machineId, createdAt), KEY by_trial (trialId), KEY by_case (caseId), KEY by_state (state),
      FOREIGN KEY (pairId) REFERENCES pairs(id)) ${tail}`,
    `ALTER TABLE trials ADD COLUMN IF NOT EXISTS simulated BOOLEAN NOT NULL DEFAULT FALSE`,
  ]),
  step('0012-sessions', [
    `CREATE TABLE IF NOT EXISTS sessions (sessionKey CHAR(64) NOT NULL PRIMARY KEY, agent VARCHAR(200) NOT NULL, expiresAt DATETIME(3) NOT NULL,
      ${times}, KEY by_expiry (expiresAt)) ${tail}`,
  ]),
  step('0013-sums-of-cases', [
    // what lists show of a case is kept with it; made at the next start for those that are there
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS sums LONGTEXT NULL`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS families VARCHAR(120) NOT NULL DEFAULT ''`,
    `ALTER TABLE cases ADD COLUMN IF NOT EXISTS sumsSchema INT NOT NULL DEFAULT 0`,
    `CREATE INDEX IF NOT EXISTS by_pair_change ON cases (pairId, removedAt, updatedAt)`,
    `CREATE INDEX IF NOT EXISTS by_pair_made ON trials (pairId, removedAt, createdAt)`,
    `CREATE INDEX IF NOT EXISTS by_case_made ON case_files (caseId, createdAt)`,
  ]),
  step('0014-tested-values', [
    // what others may take over of a recipe is kept with its pair; made at the next start for those that are there
    `ALTER TABLE pairs ADD COLUMN IF NOT EXISTS tested LONGTEXT NULL`,
    `ALTER TABLE pairs ADD COLUMN IF NOT EXISTS testedSchema INT NOT NULL DEFAULT 0`,
    `CREATE INDEX IF NOT EXISTS by_change ON pairs (updatedAt)`,
  ]),
  step('0015-about-the-part', [`ALTER TABLE cases ADD COLUMN IF NOT EXISTS about LONGTEXT NULL`]),
]
