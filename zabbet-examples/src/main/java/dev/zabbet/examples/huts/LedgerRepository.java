package dev.zabbet.examples.huts;

import java.util.List;

/** The ledger, wherever it is kept. Entries are never changed. */
public interface LedgerRepository {
    /** Enters an entry. */
    void add(LedgerEntry entry);

    /** Returns the entries for a stay. */
    List<LedgerEntry> findByStayId(long stayId);
}
