package dev.zabbet.junit.internal;

import dev.zabbet.factory.PayloadForm;
import dev.zabbet.jdbc.internal.store.CallerTransaction;
import java.util.Map;
import java.util.Optional;
import javax.sql.DataSource;

/**
 * The database that a framework has set up for tests.
 *
 * @param dataSource where its connections come from
 * @param caller tells of the transaction that the framework has begun for a test
 * @param keySequences sequences that the application takes keys from itself, by the names of tables
 * @param payloadForm how the application reads JSON, if it has its own way
 * @param mayLose the database's name, if the settings of the tests say that it may be dedicated although it holds rows
 * @param toDedicate how to say so; shown below a refusal, with {@code %s} for the database's name
 */
public record HostedDatabase(
        DataSource dataSource,
        CallerTransaction caller,
        Map<String, String> keySequences,
        Optional<PayloadForm> payloadForm,
        Optional<String> mayLose,
        String toDedicate) {}
