package dev.zabbet.examples.huts;

import java.time.LocalDateTime;
import java.util.List;
import java.util.UUID;
import javax.sql.DataSource;

/** The ledger in a database. */
public final class JdbcLedgerRepository implements LedgerRepository {
    private final Sql sql;

    /** A repository over this database. */
    public JdbcLedgerRepository(DataSource dataSource) {
        this.sql = new Sql(dataSource);
    }

    @Override
    public void add(LedgerEntry entry) {
        sql.update(
                "INSERT INTO ledger_entry (id, stay_id, amount, kind, entered_at) VALUES (?, ?, ?, ?, ?)",
                entry.id(),
                entry.stayId(),
                entry.amount(),
                entry.kind().name(),
                entry.enteredAt());
    }

    @Override
    public List<LedgerEntry> findByStayId(long stayId) {
        return sql.query(
                row -> new LedgerEntry(
                        row.getObject("id", UUID.class),
                        row.getLong("stay_id"),
                        row.getBigDecimal("amount"),
                        LedgerEntry.Kind.valueOf(row.getString("kind")),
                        row.getObject("entered_at", LocalDateTime.class)),
                "SELECT id, stay_id, amount, kind, entered_at FROM ledger_entry WHERE stay_id = ? ORDER BY entered_at",
                stayId);
    }
}
