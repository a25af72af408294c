package dev.zabbet.spring;

import dev.zabbet.fake.Definition;
import dev.zabbet.fake.FakeSupport;
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
    public Optional<Definition> definition(Method method, Class<?> entity) {
        return PRESENT ? SpringDataMethods.definition(method, entity) : Optional.empty();
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
