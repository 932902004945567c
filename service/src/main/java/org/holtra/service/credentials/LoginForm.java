package org.holtra.service.credentials;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;

/** The form {@code login}: a user and a password, for protocols that ask for both when a connection is made. */
@Component
public final class LoginForm implements CredentialForm, CredentialFormProvider {

    public static final String WORD = "login";

    private static final List<Field> FIELDS =
            List.of(new Field("user", "User", false), new Field("password", "Password", true));

    @Override
    public List<CredentialForm> credentialForms() {
        return List.of(this);
    }

    @Override
    public String word() {
        return WORD;
    }

    @Override
    public String about() {
        return "when a connection is made, by user and password";
    }

    @Override
    public List<Field> fields() {
        return FIELDS;
    }

    @Override
    public Checked check(Map<String, String> pasted) throws Unfit {
        List<String> notices = new ArrayList<>();
        String user = pasted.getOrDefault("user", "").strip();
        if (user.isEmpty()) {
            throw new Unfit("user", "the user is missing");
        }
        if (user.chars().anyMatch(Character::isISOControl)) {
            throw new Unfit("user", "the user contains a line break or another control character");
        }
        String password = PastedSecret.checked("password", pasted.get("password"), notices);
        if (password.equals(user)) {
            notices.add("User and password are the same; was one pasted twice?");
        }
        return new Checked(credential(Map.of("user", user, "password", password)), List.copyOf(notices));
    }
}
