package org.holtra.service.access;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.service.settings.HoltraSettings;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.security.core.userdetails.User;
import org.springframework.security.core.userdetails.UserDetails;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.core.userdetails.UsernameNotFoundException;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** The people who may sign in. */
@Component
public class Accounts implements UserDetailsService {

    private static final String ADMINISTRATOR = "admin";
    private static final int PASSWORD_BYTES = 12;
    private static final Logger log = LoggerFactory.getLogger(Accounts.class);

    private final AccountMapper mapper;
    private final PasswordEncoder encoder;
    private final Secrets secrets;
    private final ApiKeys keys;
    private final Welcome welcome;

    /** Where the first start tells what it made. */
    @Component
    record Welcome(HoltraSettings settings, InstantSource clock) {}

    Accounts(AccountMapper mapper, PasswordEncoder encoder, Secrets secrets, ApiKeys keys, Welcome welcome) {
        this.mapper = mapper;
        this.encoder = encoder;
        this.secrets = secrets;
        this.keys = keys;
        this.welcome = welcome;
    }

    /** The first start makes one administrator, with a password that is told this once. */
    public void ensureAdministrator() {
        if (mapper.count() > 0) {
            return;
        }
        String password = secrets.next(PASSWORD_BYTES);
        mapper.add(new AccountMapper.Account(
                ADMINISTRATOR, encoder.encode(password), welcome.clock().instant()));
        // Not into the log, which more people read and which is kept for longer.
        Path file = welcome.settings().firstSignIn();
        write(file, password);
        log.info(
                "First start. The sign-in of {} and an API key stand in {}; delete it when you have them",
                ADMINISTRATOR,
                file);
    }

    private void write(Path file, String password) {
        Map<String, String> told = new LinkedHashMap<>();
        told.put("name", ADMINISTRATOR);
        told.put("password", password);
        told.put("key", keys.make("first-start", ADMINISTRATOR).orElseThrow());
        try {
            Files.deleteIfExists(file);
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.write(file, JsonMapper.shared().writeValueAsBytes(told));
        } catch (IOException e) {
            throw new UncheckedIOException("the first sign-in could not be written to " + file, e);
        }
    }

    @Override
    public UserDetails loadUserByUsername(String name) {
        return mapper.find(name)
                .map(account -> User.withUsername(account.name())
                        .password(account.passwordHash())
                        .authorities("person")
                        .build())
                .orElseThrow(() -> new UsernameNotFoundException(name));
    }
}
