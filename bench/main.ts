console.log('to come');
