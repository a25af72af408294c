package dev.zabbet.jdbc.internal.dialect;

import java.sql.SQLException;

/** While events were undone, others were noted: the undo is taken back, and begins with another look. */
public final class NotedMeanwhileException extends SQLException {
    private static final long serialVersionUID = 1L;

    public NotedMeanwhileException() {
        super("others have changed rows meanwhile");
    }
}
