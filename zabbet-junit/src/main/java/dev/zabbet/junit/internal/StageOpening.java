package dev.zabbet.junit.internal;

import dev.zabbet.Stage;
import dev.zabbet.error.UndedicatedException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Databases;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.jdbc.internal.store.CallerStore;
import dev.zabbet.junit.Database;
import dev.zabbet.junit.DatabaseProvider;
import dev.zabbet.junit.Staged;
import java.lang.reflect.Field;
import java.lang.reflect.Modifier;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.function.Supplier;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.junit.platform.commons.support.AnnotationSupport;
import org.junit.platform.commons.support.ReflectionSupport;

/** Opens the stage that a test class asks for. */
final class StageOpening {
    private final Class<?> testClass;
    private final Staged staged;
    private final @Nullable HostedDatabase hosted;

    /** @param hosted the database of what runs the tests, for a class that names none; null if there is none */
    StageOpening(Class<?> testClass, Staged staged, @Nullable HostedDatabase hosted) {
        this.testClass = testClass;
        this.staged = staged;
        this.hosted = hosted;
    }

    Stage open() {
        List<Supplier<DataSource>> ways = ways();
        if (ways.size() > 1) {
            throw wrong("names its database in " + ways.size()
                    + " ways; url, on, provider and a @Database field exclude each other");
        }
        if (!staged.value().isEmpty() && !staged.sql().isEmpty()) {
            throw wrong("gives both a script and sql; leave one out");
        }
        if (!staged.dataSource().isEmpty() && (hosted == null || !ways.isEmpty())) {
            throw wrong("names the DataSource " + staged.dataSource()
                    + (hosted == null
                            ? ", and no framework that sets one up runs it; for a test with Spring, zabbet-spring has"
                                    + " to be on the class path"
                            : " and another database too; leave one out"));
        }
        if (ways.isEmpty() && hosted != null) {
            return hosted(hosted);
        }
        if (ways.isEmpty()) {
            if (staged.ownDatabase()) {
                throw wrong("asks for a database of its own but names no url; an embedded one is its own always");
            }
            if (staged.inTransaction()) {
                throw wrong("asks for one transaction but names no database; an embedded one is rewound faster");
            }
            if (staged.value().isEmpty() && staged.sql().isEmpty()) {
                throw wrong(
                        "needs a script, @Staged(\"/db/schema.sql\"), or statements, @Staged(sql = \"…\"), or a database");
            }
            return staged.sql().isEmpty()
                    ? Jdbc.embedded(Scripts.of(staged.value(), "jdbc:h2:", testClass), testClass)
                    : Jdbc.embeddedSql(staged.sql());
        }
        if (staged.ownDatabase() || !staged.on().isEmpty()) {
            if (staged.inTransaction()) {
                throw wrong("asks for a database of its own and for one transaction; leave one out");
            }
            return own();
        }
        DataSource database = ways.get(0).get();
        if (staged.inTransaction()) {
            if (!staged.value().isEmpty() || !staged.sql().isEmpty()) {
                throw wrong("asks for one transaction, in which no tables are made; leave the script out");
            }
            return Jdbc.stageInTransaction(database);
        }
        if (!staged.value().isEmpty()) {
            return Jdbc.stage(database, Scripts.of(staged.value(), urlOf(database), testClass), testClass);
        }
        if (!staged.sql().isEmpty()) {
            return Jdbc.stageSql(database, staged.sql());
        }
        if (Jdbc.schema(database).tables().isEmpty()) {
            Jdbc.dedicate(database);
        }
        return Jdbc.stage(database);
    }

    /** The tables are there already, as a rule; a script makes them where they are not. */
    private Stage hosted(HostedDatabase database) {
        if (staged.ownDatabase() || staged.inTransaction()) {
            throw wrong("is run by a framework that gives it a database, which goes neither with ownDatabase nor with"
                    + " inTransaction: let the framework begin the transaction");
        }
        DataSource dataSource = database.dataSource();
        try {
            database.mayLose().ifPresent(name -> Jdbc.dedicate(dataSource, name));
            if (Jdbc.schema(dataSource).tables().isEmpty()) {
                Jdbc.dedicate(dataSource);
            }
            if (!staged.value().isEmpty()) {
                Jdbc.stage(dataSource, Scripts.of(staged.value(), urlOf(dataSource), testClass), testClass)
                        .close();
            } else if (!staged.sql().isEmpty()) {
                Jdbc.stageSql(dataSource, staged.sql()).close();
            }
            Stage stage = CallerStore.stage(dataSource, database.caller(), database.keySequences());
            database.payloadForm().ifPresent(stage::writePayloadsAs);
            return stage;
        } catch (UndedicatedException e) {
            throw new ZabbetException(e.getMessage() + "\n" + String.format(database.toDedicate(), e.database()), e);
        }
    }

    private Stage own() {
        boolean scripted = !staged.value().isEmpty() || !staged.sql().isEmpty();
        if (!staged.on().isEmpty() && !scripted) {
            throw wrong("is on " + staged.on() + ", where a database is made for it, which takes a script or sql");
        }
        if (staged.on().isEmpty() && (staged.url().isEmpty() || !scripted)) {
            throw wrong("asks for a database of its own, which takes a url to stand beside and a script or sql");
        }
        String url = staged.on().isEmpty()
                ? Environment.filled(staged.url(), this::wrong)
                : Scripts.server(staged.on())
                        .orElseThrow(() -> wrong("is on '" + staged.on()
                                + "'; on can be postgres or mariadb. Another database is named by url"));
        Databases databases = staged.value().isEmpty()
                ? Databases.besideSql(url, Environment.user(), Environment.password(), staged.sql())
                : Databases.beside(
                        url,
                        Environment.user(),
                        Environment.password(),
                        Scripts.of(staged.value(), url, testClass),
                        testClass);
        return databases.stage();
    }

    private static String urlOf(DataSource database) {
        try (Connection connection = database.getConnection()) {
            return connection.getMetaData().getURL();
        } catch (SQLException e) {
            throw new ZabbetException("The database cannot be opened: " + e.getMessage(), e);
        }
    }

    /** Opens the stage for all tests of the class. */
    ClassStage hold() {
        Stage opened = open();
        boolean asProperty = staged.variation() == Staged.AS_PROPERTY;
        Stage stage = asProperty ? opened : opened.inVariation(staged.variation());
        return new ClassStage(stage, isShared(), staged.load(), staged.expect());
    }

    /** Tells whether the database outlives the test class, and does not rewind itself. */
    private boolean isShared() {
        boolean own = staged.ownDatabase() || !staged.on().isEmpty();
        return (hosted != null || !ways().isEmpty()) && !own && !staged.inTransaction();
    }

    private List<Supplier<DataSource>> ways() {
        List<Supplier<DataSource>> ways = new java.util.ArrayList<>();
        if (!staged.url().isEmpty()) {
            ways.add(this::byUrl);
        }
        if (!staged.on().isEmpty()) {
            ways.add(() -> Jdbc.dataSource(staged.on() + ":", "", ""));
        }
        if (staged.provider() != DatabaseProvider.class) {
            ways.add(() -> ReflectionSupport.newInstance(staged.provider()).database(testClass));
        }
        for (Field field : AnnotationSupport.findAnnotatedFields(testClass, Database.class)) {
            ways.add(() -> byField(field));
        }
        return ways;
    }

    private DataSource byUrl() {
        return Jdbc.dataSource(
                Environment.filled(staged.url(), this::wrong), Environment.user(), Environment.password());
    }

    private DataSource byField(Field field) {
        if (!Modifier.isStatic(field.getModifiers())) {
            throw wrong("has the @Database field " + field.getName() + ", which is not static");
        }
        Object value = ReflectionSupport.tryToReadFieldValue(field, null)
                .getOrThrow(e -> wrong("has the @Database field " + field.getName() + ", which cannot be read: " + e));
        if (value instanceof Supplier<?> supplier) {
            value = supplier.get();
        }
        if (value instanceof DataSource database) {
            return database;
        }
        throw wrong("has the @Database field " + field.getName() + ", which holds no DataSource but " + value);
    }

    private ZabbetException wrong(String what) {
        return new ZabbetException("@Staged on " + testClass.getName() + " " + what + ".");
    }
}
