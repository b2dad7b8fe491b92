package deftlens.server.imports;

import deftlens.server.platform.PrivateDirectory;
import java.io.IOException;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** Where files wait until they are brought in. */
@Configuration
class UploadSettings {

    @Bean
    PrivateDirectory uploadDirectory(@Value("${deft.data:}") String data) throws IOException {
        return new PrivateDirectory(data, "files");
    }
}
