package dev.zabbet.junit;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.jdbc.Jdbc;
import java.lang.reflect.Field;
import java.lang.reflect.Modifier;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.junit.platform.commons.support.AnnotationSupport;
import org.junit.platform.commons.support.ReflectionSupport;

/** Opens the stage that a test class asks for. */
final class StageOpening {
    private static final Pattern PLACEHOLDER = Pattern.compile("\\$\\{([A-Za-z0-9_.]+)(?::([^}]*))?}");

    private final Class<?> testClass;
    private final Staged staged;

    StageOpening(Class<?> testClass, Staged staged) {
        this.testClass = testClass;
        this.staged = staged;
    }

    Stage open() {
        List<Supplier<DataSource>> ways = ways();
        if (ways.size() > 1) {
            throw wrong("names its database in " + ways.size()
                    + " ways; url, provider and a @Database field exclude each" + " other");
        }
        if (!staged.value().isEmpty() && !staged.sql().isEmpty()) {
            throw wrong("gives both a script and sql; leave one out");
        }
        if (ways.isEmpty()) {
            if (staged.value().isEmpty() && staged.sql().isEmpty()) {
                throw wrong(
                        "needs a script, @Staged(\"/db/schema.sql\"), or statements, @Staged(sql = \"…\"), or a database");
            }
            return staged.sql().isEmpty() ? Jdbc.embedded(staged.value(), testClass) : Jdbc.embeddedSql(staged.sql());
        }
        DataSource database = ways.get(0).get();
        if (Jdbc.schema(database).tables().isEmpty()) {
            Jdbc.dedicate(database);
            if (!staged.value().isEmpty()) {
                Jdbc.run(database, staged.value(), testClass);
            } else if (!staged.sql().isEmpty()) {
                Jdbc.runSql(database, staged.sql());
            }
        }
        return Jdbc.stage(database);
    }

    /** Tells whether the database outlives the test class. */
    boolean isShared() {
        return !ways().isEmpty();
    }

    private List<Supplier<DataSource>> ways() {
        List<Supplier<DataSource>> ways = new java.util.ArrayList<>();
        if (!staged.url().isEmpty()) {
            ways.add(this::byUrl);
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
                filled(staged.url()),
                environment("ZABBET_USER").orElse(""),
                environment("ZABBET_PASSWORD").orElse(""));
    }

    private String filled(String url) {
        Matcher placeholder = PLACEHOLDER.matcher(url);
        StringBuilder filled = new StringBuilder();
        while (placeholder.find()) {
            String value = environment(placeholder.group(1)).orElse(placeholder.group(2));
            if (value == null) {
                throw wrong("takes its URL from " + placeholder.group(1)
                        + ", which is not set in the environment; set it, or" + " write a default: ${"
                        + placeholder.group(1) + ":jdbc:…}");
            }
            placeholder.appendReplacement(filled, Matcher.quoteReplacement(value));
        }
        return placeholder.appendTail(filled).toString();
    }

    private static Optional<String> environment(String name) {
        return Optional.ofNullable(System.getProperty(name)).or(() -> Optional.ofNullable(System.getenv(name)));
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
