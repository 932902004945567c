package org.holtra.service.credentials;

import java.util.List;

/** A kind that brings forms of credential. */
public interface CredentialFormProvider {

    List<CredentialForm> credentialForms();
}
