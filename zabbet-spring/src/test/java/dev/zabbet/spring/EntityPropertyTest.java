package dev.zabbet.spring;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.jdbc.internal.store.CallerStore;
import dev.zabbet.schema.Table;
import dev.zabbet.spring.internal.context.HibernateMappings;
import dev.zabbet.spring.internal.context.SpringTransaction;
import jakarta.persistence.EntityManager;
import jakarta.persistence.EntityManagerFactory;
import jakarta.persistence.metamodel.Attribute;
import java.io.IOException;
import java.lang.reflect.Field;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;
import javax.sql.DataSource;
import javax.tools.ToolProvider;
import org.hibernate.boot.MetadataSources;
import org.hibernate.boot.registry.BootstrapServiceRegistryBuilder;
import org.hibernate.boot.registry.StandardServiceRegistryBuilder;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfEnvironmentVariable;
import org.junit.jupiter.api.io.TempDir;

/** Entities made by chance: what factories store, the provider reads back as it was; what they build, it persists. */
class EntityPropertyTest {
    private static final long FIRST = Long.getLong("zabbet.firstVariation", 1);
    private static final int RUNS = Integer.getInteger("zabbet.runs", 8);

    @TempDir
    Path classes;

    @Test
    void onH2() throws Exception {
        System.out.println("entities on H2: variations " + FIRST + " to " + (FIRST + RUNS - 1));
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            hold(variation, Jdbc.dataSource("jdbc:h2:mem:" + UUID.randomUUID() + ";DB_CLOSE_DELAY=-1", "sa", ""));
        }
    }

    @Test
    @EnabledIfEnvironmentVariable(named = "ZABBET_TEST_POSTGRES", matches = ".+")
    void onPostgres() throws Exception {
        System.out.println("entities on PostgreSQL: variations " + FIRST + " to " + (FIRST + RUNS - 1));
        for (long variation = FIRST; variation < FIRST + RUNS; variation++) {
            try (Server.Made database = Server.make("ZABBET_TEST_POSTGRES")) {
                hold(variation, Jdbc.dataSource(database.url(), "", ""));
            }
        }
    }

    private void hold(long variation, DataSource database) throws Exception {
        EntityModel model = EntityModel.of(variation);
        List<String> failures = new ArrayList<>();
        try (URLClassLoader loader = compiled(model);
                EntityManagerFactory provider = provider(model, loader, database)) {
            Map<String, String> sequences = new HashMap<>();
            HibernateMappings.read(provider, sequences);
            Jdbc.dedicate(database);
            try (Stage stage = CallerStore.stage(database, new SpringTransaction(database), sequences)) {
                for (String name : model.concrete()) {
                    Class<?> type = loader.loadClass(name);
                    for (Use use : uses()) {
                        var point = stage.mark();
                        try {
                            use.of(type, stage, provider);
                        } catch (Throwable e) {
                            failures.add(type.getSimpleName() + ": " + e);
                        } finally {
                            stage.rewind(point);
                        }
                    }
                }
            }
        }
        assertTrue(
                failures.isEmpty(),
                () -> "Variation " + variation + ":\n  " + String.join("\n  ", failures) + "\n"
                        + String.join("\n", model.sources().values()));
    }

    /** One use of a type; fails by whatever it throws. */
    private interface Use {
        void of(Class<?> type, Stage stage, EntityManagerFactory provider) throws Exception;
    }

    private static List<Use> uses() {
        return List.of(
                (type, stage, provider) -> readBack(List.of(stage.add(Factory.forType(type))), provider),
                (type, stage, provider) ->
                        readBack(List.of(stage.add(Factory.forType(type).filled())), provider),
                (type, stage, provider) -> readBack(stage.add(50, Factory.forType(type)), provider),
                EntityPropertyTest::persisted,
                (type, stage, provider) -> {
                    Object added = stage.add(Factory.forType(type));
                    stage.expect(type).holds(added);
                });
    }

    private static void persisted(Class<?> type, Stage stage, EntityManagerFactory provider) {
        List<?> built = stage.build(3, Factory.forType(type));
        try (EntityManager entities = provider.createEntityManager()) {
            entities.getTransaction().begin();
            built.forEach(entities::persist);
            entities.getTransaction().commit();
        }
        assertEquals(
                3,
                stage.expect(type) == null
                        ? 0
                        : stage.rows(tableOf(type, stage).name()).size());
    }

    private static Table tableOf(Class<?> type, Stage stage) {
        return stage.schema().require(dev.zabbet.internal.type.TypeShape.tableOf(type));
    }

    private static void readBack(List<?> added, EntityManagerFactory provider) throws ReflectiveOperationException {
        try (EntityManager entities = provider.createEntityManager()) {
            for (Object object : added) {
                Object id = provider.getPersistenceUnitUtil().getIdentifier(object);
                Object loaded = entities.find(object.getClass(), id);
                assertTrue(loaded != null, () -> "not found by " + id);
                for (Attribute<?, ?> attribute :
                        provider.getMetamodel().entity(object.getClass()).getAttributes()) {
                    if (!attribute.isCollection()) {
                        Field field = (Field) attribute.getJavaMember();
                        assertEquals(
                                text(field.get(object), provider),
                                text(field.get(loaded), provider),
                                attribute.getName());
                    }
                }
            }
        }
    }

    /** Objects with a row of their own are told by their keys. */
    private static String text(Object value, EntityManagerFactory provider) throws ReflectiveOperationException {
        if (value == null || value instanceof Enum<?> || value instanceof Record) {
            return String.valueOf(value);
        }
        if (value instanceof byte[] bytes) {
            return Arrays.toString(bytes);
        }
        Class<?> type = org.hibernate.Hibernate.getClass(value);
        boolean entity = provider.getMetamodel().getEntities().stream().anyMatch(one -> one.getJavaType() == type);
        if (entity) {
            return String.valueOf(provider.getPersistenceUnitUtil().getIdentifier(value));
        }
        if (type.getName().startsWith("made.")) {
            StringBuilder parts = new StringBuilder();
            for (Field field : type.getFields()) {
                parts.append(field.getName())
                        .append('=')
                        .append(field.get(value))
                        .append(' ');
            }
            boolean empty = Stream.of(type.getFields())
                    .map(field -> EntityPropertyTest.get(field, value))
                    .allMatch(held -> held == null);
            return empty ? "null" : parts.toString();
        }
        return value instanceof java.math.BigDecimal number
                ? number.stripTrailingZeros().toPlainString()
                : value.toString();
    }

    private static Object get(Field field, Object of) {
        try {
            return field.get(of);
        } catch (IllegalAccessException e) {
            throw new IllegalStateException(e);
        }
    }

    private URLClassLoader compiled(EntityModel model) throws IOException {
        List<String> files = new ArrayList<>();
        for (Map.Entry<String, String> source : model.sources().entrySet()) {
            Path file = classes.resolve(source.getKey().replace('.', '/') + ".java");
            Files.createDirectories(Objects.requireNonNull(file.getParent()));
            Files.writeString(file, source.getValue());
            files.add(file.toString());
        }
        List<String> arguments = new ArrayList<>(List.of(
                "-parameters",
                "-proc:none",
                "-nowarn",
                "-cp",
                System.getProperty("java.class.path"),
                "-d",
                classes.toString()));
        arguments.addAll(files);
        int result = ToolProvider.getSystemJavaCompiler().run(null, null, null, arguments.toArray(String[]::new));
        assertEquals(0, result, () -> String.join("\n", model.sources().values()));
        return new URLClassLoader(new URL[] {classes.toUri().toURL()}, EntityPropertyTest.class.getClassLoader());
    }

    private static EntityManagerFactory provider(EntityModel model, ClassLoader loader, DataSource database)
            throws ClassNotFoundException {
        var registry = new StandardServiceRegistryBuilder(new BootstrapServiceRegistryBuilder()
                        .applyClassLoader(loader)
                        .build())
                .applySetting("hibernate.connection.datasource", database)
                .applySetting("hibernate.hbm2ddl.auto", "create")
                .build();
        MetadataSources sources = new MetadataSources(registry);
        for (String name : model.sources().keySet()) {
            Class<?> type = loader.loadClass(name);
            if (type.isAnnotationPresent(jakarta.persistence.Entity.class)
                    || type.isAnnotationPresent(jakarta.persistence.Converter.class)) {
                sources.addAnnotatedClass(type);
            }
        }
        return Optional.of(sources.buildMetadata().buildSessionFactory()).orElseThrow();
    }
}
