package dev.zabbet.spring.huts;

import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Letters to guests, kept whatever becomes of what they tell of. */
@Service
public class Letters {
    private final JdbcClient database;

    Letters(JdbcClient database) {
        this.database = database;
    }

    /** Keeps a letter. */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public void write(String text) {
        database.sql("INSERT INTO letter (text) VALUES (?)").param(text).update();
    }
}
