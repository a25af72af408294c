package dev.zabbet.spring.internal.data;

import dev.zabbet.fake.Definition;
import dev.zabbet.internal.fake.FakeSupport;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import java.lang.reflect.Method;
import java.util.Optional;
import org.springframework.util.ClassUtils;

/** Lets fakes of Spring Data's repositories do what the real ones do beyond what names say. */
public final class SpringDataSupport implements FakeSupport {
    private static final boolean PRESENT = ClassUtils.isPresent(
                    "org.springframework.data.repository.Repository", SpringDataSupport.class.getClassLoader())
            && ClassUtils.isPresent(
                    "org.springframework.dao.DataIntegrityViolationException",
                    SpringDataSupport.class.getClassLoader());

    @Override
    public Optional<Definition> definition(Method method, Class<?> entity, Schema schema) {
        return PRESENT ? SpringDataMethods.definition(method, entity, schema) : Optional.empty();
    }

    @Override
    public boolean isLazy(Method method) {
        return PRESENT && SpringDataMethods.isLazy(method);
    }

    @Override
    public boolean isClearing(Method method) {
        return PRESENT && SpringDataMethods.isClearing(method);
    }

    @Override
    public Optional<SelectionForm> selection(Class<?> parameter) {
        return PRESENT ? SpringDataSelections.form(parameter) : Optional.empty();
    }

    @Override
    public boolean isManaging(Class<?> type) {
        return PRESENT && SpringDataMethods.isManaging(type);
    }

    @Override
    public Optional<PartForm> part(Class<?> result) {
        return PRESENT ? SpringDataParts.form(result) : Optional.empty();
    }

    @Override
    public Optional<Throwable> thrown(Class<?> type, ConstraintException refusal) {
        return PRESENT ? SpringDataMethods.thrown(type, refusal) : Optional.empty();
    }
}
