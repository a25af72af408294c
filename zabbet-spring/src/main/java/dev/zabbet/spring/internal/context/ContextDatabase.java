package dev.zabbet.spring.internal.context;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.junit.internal.HostedDatabase;
import java.util.Arrays;
import java.util.Optional;
import javax.sql.DataSource;
import org.springframework.context.ApplicationContext;
import org.springframework.jdbc.datasource.DelegatingDataSource;

/** Finds the database of an application context. */
final class ContextDatabase {
    /** Names the database that may be dedicated to tests although it holds rows, those of migrations for example. */
    private static final String MAY_LOSE = "zabbet.dedicate";

    private ContextDatabase() {}

    /**
     * Returns the database of a context.
     *
     * @param bean the name of its bean; empty for the only one, or the primary one
     * @param testClass the class that asks, for messages
     * @throws ZabbetException if there is none, or it cannot be told which is meant
     */
    static HostedDatabase of(ApplicationContext context, String bean, Class<?> testClass) {
        DataSource dataSource = plain(dataSource(context, bean, testClass));
        return new HostedDatabase(
                dataSource,
                new SpringTransaction(dataSource),
                ProviderMappings.read(context),
                ContextPayloads.of(context),
                Optional.ofNullable(context.getEnvironment().getProperty(MAY_LOSE))
                        .filter(name -> !name.isBlank()),
                "or in the properties of the tests (src/test/resources/application.properties): " + MAY_LOSE + "=%s");
    }

    private static DataSource dataSource(ApplicationContext context, String bean, Class<?> testClass) {
        String[] names = context.getBeanNamesForType(DataSource.class);
        if (names.length == 0) {
            throw new ZabbetException("@Staged on " + testClass.getName()
                    + " looks for a DataSource in the application context, and there is none. A slice of the application that"
                    + " leaves data access out needs no stage, or one of its own: @Staged(\"/db/schema.sql\") in a class"
                    + " without Spring, or Memory.stage(…) with fakes.");
        }
        if (!bean.isEmpty()) {
            if (!Arrays.asList(names).contains(bean)) {
                throw new ZabbetException("@Staged on " + testClass.getName() + " names the DataSource " + bean
                        + "; the application context has " + String.join(", ", names) + ".");
            }
            return context.getBean(bean, DataSource.class);
        }
        DataSource only = context.getBeanProvider(DataSource.class).getIfUnique();
        if (only == null) {
            throw new ZabbetException("@Staged on " + testClass.getName() + " finds " + names.length
                    + " DataSources in the application context, " + String.join(", ", names)
                    + ", and none is primary. Name one: @Staged(dataSource = \"" + names[0] + "\").");
        }
        return only;
    }

    /** Returns what is behind proxies that hand out the transaction's own connection: the stage needs others too. */
    private static DataSource plain(DataSource dataSource) {
        DataSource plain = dataSource;
        while (plain instanceof DelegatingDataSource proxy && proxy.getTargetDataSource() != null) {
            plain = proxy.getTargetDataSource();
        }
        return plain;
    }
}
