import type { Sequelize } from 'sequelize';

/**
 * As in 010, but each row says whose it is and which write it belongs to: edits that arrive while another is being written go
 * together as one transaction, whoever they are of.
 */
const PROCEDURE = `
  CREATE PROCEDURE append_feed (IN entries LONGTEXT, IN entry_count BIGINT, IN now_ms BIGINT)
  BEGIN
    DECLARE newest BIGINT;
    UPDATE feed_head SET revision = LAST_INSERT_ID(revision + entry_count);
    SET newest = LAST_INSERT_ID();
    INSERT INTO change_feed (revision, change_group, at_ms, person_id, action, entity, entity_id, before_values, after_values)
      SELECT newest - entry_count + e.n, e.change_group, now_ms, e.person, e.action, e.entity, e.entity_id, e.before_values, e.after_values
      FROM JSON_TABLE(entries, '$[*]' COLUMNS (n FOR ORDINALITY, change_group CHAR(36) PATH '$.group', person BIGINT PATH '$.personId', action VARCHAR(40) PATH '$.action',
        entity VARCHAR(40) PATH '$.entity', entity_id BIGINT PATH '$.entityId', before_values LONGTEXT PATH '$.before', after_values LONGTEXT PATH '$.after')) e;
    COMMIT;
    SELECT newest AS revision;
  END`;

export const manyWritersMigration = {
  name: '017-many-writers',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('DROP PROCEDURE append_feed');
    await db.query(PROCEDURE);
  },
};
